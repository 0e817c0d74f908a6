import { Button, Modal } from "antd";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { useTitle } from "../../shared/useTitle";
import { Facts } from "../../shared/Facts";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { CarForm } from "./CarForm";
import { useCars } from "./queries";

/** Every car with its times, which come from elsewhere, and its setups. */
export function CarsPage({ times }: { times: (car: number) => ReactNode }) {
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
        <Nothing title="No cars yet">
          <p>Add a car and what is fitted to it now. Every run belongs to a setup.</p>
          {add}
        </Nothing>
      )}
      <div className="columns even">
        {cars.data.map((car) => (
          <CarCard key={car.id} car={car}>
            {times(car.id)}
          </CarCard>
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

function CarCard({ car, children }: { car: Schemas["Car"]; children: ReactNode }) {
  const { family } = usePreferences();
  const runs = car.setups.reduce((sum, setup) => sum + setup.run_count, 0);
  const now = car.setups.at(-1);
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
      {children}
      <Facts
        rows={[
          ["Setup now", now?.name ?? "none yet"],
          ["Setups", String(car.setups.length)],
          ["Runs", String(runs)],
          ["Test mass", withUnit(car.test_mass_kg, "mass", family)],
          ["Power", car.power_kw ? `${car.power_kw} kW` : "–"],
          ["Battery", car.battery_kwh ? `${car.battery_kwh} kWh` : "–"],
        ]}
      />
    </article>
  );
}
