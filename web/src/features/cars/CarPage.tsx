import { Button, Modal } from "antd";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { ApiError } from "../../api/client";
import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { Facts } from "../../shared/Facts";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { HistorySheet } from "../history/HistorySheet";
import { CarForm } from "./CarForm";
import { ClaimSheet } from "./ClaimSheet";
import { DifferenceSheet } from "./DifferenceSheet";
import { BatterySheet } from "./BatterySheet";
import { useCar } from "./queries";
import { SetupForm } from "./SetupForm";
import { SetupTable } from "./SetupTable";

export function CarPage({ reminders }: { reminders: (car: number) => ReactNode }) {
  const { id } = useParams();
  const car = useCar(Number(id));
  useTitle(car.data?.name);
  const { person } = useSession();
  const { family } = usePreferences();
  const [adding, setAdding] = useState(false);
  const remove = useDelete("/api/v1/cars/{id}/", Number(id));
  const navigate = useNavigate();
  const [mending, setMending] = useState(false);
  if (car.isPending) return <Loading what="the car" />;
  if (car.error) return <Failed error={car.error} retry={() => void car.refetch()} />;
  if (!car.data) return <Failed error={new ApiError(404, {})} />;
  const { data } = car;
  const add = person?.may_write && (
    <Button type="primary" onClick={() => setAdding(true)}>
      Add a setup
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>{data.name}</h1>
        <span className="quiet">
          {[data.maker, data.model_year, `${data.drive_layout}-wheel drive`].filter(Boolean).join(" · ")}
        </span>
        <span className="push row">
          <Link to={`/studies/new?kind=history&car=${data.id}`}>Its times over the months</Link>
          {person?.may_write && <Button onClick={() => setMending(true)}>Edit car</Button>}
          {person?.may_write && data.setups.length === 0 && (
            <DeleteButton name={data.name} remove={remove} done={() => void navigate("/cars")} />
          )}
          {data.setups.length > 0 && add}
        </span>
      </div>
      {reminders(data.id)}
      <section className="sheet">
        <Facts
          wide
          rows={[
            [`Test mass, ${data.mass_source}`, withUnit(data.test_mass_kg, "mass", family)],
            ["Power", data.power_kw ? `${data.power_kw} kW` : "–"],
            ["Torque", data.torque_nm ? `${data.torque_nm} Nm` : "–"],
            [
              "Battery",
              [data.battery_kwh ? `${data.battery_kwh} kWh` : "–", data.chemistry].filter(Boolean).join(", "),
            ],
            [`Drag area, ${data.cda_source || "assumed"}`, data.cda_m2 ? `${data.cda_m2} m²` : "–"],
          ]}
        />
        {data.notes && <p>{data.notes}</p>}
      </section>
      {data.setups.length === 0 ? (
        <Nothing title="No setup yet">
          <p>Add what is fitted and installed now. Every run belongs to a setup.</p>
          {add}
        </Nothing>
      ) : (
        <>
          <SetupTable car={data} mayWrite={person?.may_write === true} />
          <div className="columns even">
            <BatterySheet car={data.id} mayWrite={person?.may_write === true} />
            <div>
              {data.setups.length > 1 && <DifferenceSheet car={data} />}
              <ClaimSheet car={data} mayWrite={person?.may_write === true} />
            </div>
          </div>
        </>
      )}
      <HistorySheet of={`cars.car:${data.id}`} />
      <Modal
        title="Edit car"
        open={mending}
        onCancel={() => setMending(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <CarForm car={data} done={() => setMending(false)} />
      </Modal>
      <Modal
        title="Add a setup"
        open={adding}
        onCancel={() => setAdding(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <SetupForm car={data} done={() => setAdding(false)} />
      </Modal>
    </>
  );
}
