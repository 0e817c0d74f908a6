import { Button, Modal } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import { ApiError, type Schemas } from "../../api/client";
import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { useReminders } from "../plans/queries";
import { CarForm } from "./CarForm";
import { Fact } from "./CarsPage";
import { ClaimSheet } from "./ClaimSheet";
import { DifferenceSheet } from "./DifferenceSheet";
import { PackSheet } from "./PackSheet";
import { useCar } from "./queries";
import { SetUpForm } from "./SetUpForm";

export function CarPage() {
  const { id } = useParams();
  const car = useCar(Number(id));
  useTitle(car.data?.name);
  const { person } = useSession();
  const { family } = usePreferences();
  const [adding, setAdding] = useState(false);
  const [mending, setMending] = useState(false);
  if (car.isPending) return <Loading what="the car" />;
  if (car.error) return <Failed error={car.error} retry={() => void car.refetch()} />;
  if (!car.data) return <Failed error={new ApiError(404, {})} />;
  const { data } = car;
  const add = person?.may_write && (
    <Button type="primary" onClick={() => setAdding(true)}>
      Add a set-up
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>{data.name}</h1>
        <span className="quiet">
          {[data.maker, data.model_year, `${data.drive_layout}-wheel drive`].filter(Boolean).join(" · ")}
        </span>
        <span className="push" style={{ display: "flex", gap: 8 }}>
          {person?.may_write && <Button onClick={() => setMending(true)}>Change the facts</Button>}
          {data.set_ups.length > 0 && add}
        </span>
      </div>
      <Reminders car={data.id} />
      <section className="sheet">
        <dl className="facts">
          <Fact name={`Test mass, ${data.mass_source}`} value={withUnit(data.test_mass_kg, "mass", family)} />
          <Fact name="Power" value={data.power_kw ? `${data.power_kw} kW` : "–"} />
          <Fact name="Torque" value={data.torque_nm ? `${data.torque_nm} Nm` : "–"} />
          <Fact
            name="Pack"
            value={[data.pack_kwh ? `${data.pack_kwh} kWh` : "–", data.chemistry].filter(Boolean).join(", ")}
          />
          <Fact
            name={`Drag area, ${data.cda_source || "assumed"}`}
            value={data.cda_m2 ? `${data.cda_m2} m²` : "–"}
          />
        </dl>
        {data.notes && <p>{data.notes}</p>}
      </section>
      {data.set_ups.length === 0 ? (
        <Nothing title="No set-up yet">
          <p>Write down what is fitted and installed now: it is what the first runs are made on.</p>
          {add}
        </Nothing>
      ) : (
        <>
          <SetUpTable setUps={data.set_ups} />
          <div className="columns even">
            <PackSheet car={data.id} mayWrite={person?.may_write === true} />
            <div>
              {data.set_ups.length > 1 && <DifferenceSheet car={data} />}
              <ClaimSheet car={data} mayWrite={person?.may_write === true} />
            </div>
          </div>
        </>
      )}
      <Modal
        title="Change the facts"
        open={mending}
        onCancel={() => setMending(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <CarForm car={data} done={() => setMending(false)} />
      </Modal>
      <Modal
        title="Add a set-up"
        open={adding}
        onCancel={() => setAdding(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <SetUpForm car={data} done={() => setAdding(false)} />
      </Modal>
    </>
  );
}

/** Questions that have no baseline yet: a change now would cost them their "before". */
function Reminders({ car }: { car: number }) {
  const reminders = useReminders(car);
  return (
    <>
      {reminders.data?.map((each) => (
        <p className="flag caution" key={each.plan}>
          Before you change this car: <Link to={`/plans/${each.plan}`}>{each.question}</Link> has no baseline.{" "}
          {each.sentence}
        </p>
      ))}
    </>
  );
}

function SetUpTable({ setUps }: { setUps: readonly Schemas["SetUp"][] }) {
  const { family } = usePreferences();
  return (
    <section className="sheet">
      <h2>Set-ups, oldest first</h2>
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th>Since</th>
              <th>Set-up</th>
              <th>Change</th>
              <th>Confirmed by</th>
              <th>Software</th>
              <th>Wheels</th>
              <th>Tires</th>
              <th className="n">Runs</th>
            </tr>
          </thead>
          <tbody>
            {setUps.map((each) => (
              <tr key={each.id}>
                <td>{each.since}</td>
                <td>
                  <strong>{each.name}</strong>
                </td>
                <td>
                  {[each.change, each.change_note].filter(Boolean).join(": ")}
                  {each.price && `, ${each.price} ${each.currency}`}
                </td>
                <td>{each.confirmed_by || "–"}</td>
                <td>{each.software_version || "–"}</td>
                <td className="nowrap">
                  {each.wheel_diameter_in ? `${each.wheel_diameter_in} in` : "–"}
                  {each.wheel_mass_kg ? `, ${withUnit(each.wheel_mass_kg, "mass", family, 1)}` : ""}
                </td>
                <td>
                  {[
                    each.tire_season,
                    each.tire_size,
                    withUnit(each.tire_pressure_kpa, "pressure", family),
                  ].join(", ")}
                </td>
                <td className="n">
                  <Link to={`/runs?set_up=${each.id}`} aria-label={`${each.run_count} runs on ${each.name}`}>
                    {each.run_count}
                  </Link>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
