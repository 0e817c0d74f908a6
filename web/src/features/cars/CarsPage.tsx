import { Button, Modal } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { CarForm } from "./CarForm";
import { useCars } from "./queries";

export function CarsPage() {
  useTitle("Cars");
  const cars = useCars();
  const { person } = useSession();
  const [adding, setAdding] = useState(false);
  if (cars.isPending) return <Loading what="the cars" />;
  if (cars.error) return <Failed error={cars.error} retry={() => void cars.refetch()} />;
  const add = person?.may_write && (
    <Button type="primary" onClick={() => setAdding(true)}>
      Add a car
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>Cars</h1>
        <span className="push">{cars.data.length > 0 && add}</span>
      </div>
      {cars.data.length === 0 && (
        <Nothing title="No car yet">
          <p>
            Add the car and what is fitted to it now. Runs are always made on a set-up, so this comes first.
          </p>
          {add}
        </Nothing>
      )}
      <div className="columns even">
        {cars.data.map((car) => (
          <CarCard key={car.id} car={car} />
        ))}
      </div>
      <Modal
        title="Add a car"
        open={adding}
        onCancel={() => setAdding(false)}
        footer={null}
        destroyOnHidden
        width={640}
      >
        <CarForm done={() => setAdding(false)} />
      </Modal>
    </>
  );
}

function CarCard({ car }: { car: Schemas["Car"] }) {
  const { family } = usePreferences();
  const runs = car.set_ups.reduce((sum, setUp) => sum + setUp.run_count, 0);
  const now = car.set_ups.at(-1);
  return (
    <article className="sheet">
      <h2>
        <Link to={`/cars/${car.id}`}>{car.name}</Link>
      </h2>
      <p className="quiet">
        {[car.maker, car.model_year, car.drive_layout && `${car.drive_layout}-wheel drive`]
          .filter(Boolean)
          .join(" · ")}
      </p>
      <dl className="facts">
        <Fact name="Set-up now" value={now?.name ?? "none yet"} />
        <Fact name="Set-ups" value={String(car.set_ups.length)} />
        <Fact name="Runs" value={String(runs)} />
        <Fact name="Test mass" value={withUnit(car.test_mass_kg, "mass", family)} />
        <Fact name="Power" value={car.power_kw ? `${car.power_kw} kW` : "–"} />
        <Fact name="Pack" value={car.pack_kwh ? `${car.pack_kwh} kWh` : "–"} />
      </dl>
    </article>
  );
}

export function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </div>
  );
}
