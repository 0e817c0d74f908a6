import { InputNumber, Select } from "antd";
import { useState } from "react";

import { QuantityInput } from "../../shared/QuantityInput";
import { fixed } from "../../shared/units";
import { useSetupOptions } from "../cars/useSetupOptions";
import { useSimulation, type Order, type Strip } from "./queries";

/** The simulated driver and car. Marked as what it is: nothing here is measured on a road. */
export function SimulationPanel({ strip }: { strip: Strip }) {
  const { stands, order } = useSimulation(strip.recorder.id);
  const setups = useSetupOptions();
  const [setup, setSetup] = useState(strip.recorder.setup);
  const [charge, setCharge] = useState<number | null>(null);
  const [battery, setBattery] = useState<number | null>(null);
  const now = stands.data;
  const failed = order.error ?? stands.error;
  const ask = (given: Order) => order.mutate(given);
  return (
    <section className="sheet simulation" aria-label="Simulation">
      <h2>Simulation: no real car is moving</h2>
      <p className="label">
        {now
          ? `The simulated car ${now.idle ? "waits" : "drives"}. Charge ${fixed(now.charge_percent, 1)} %, receiver ${fixed(now.rate_hz, 0)} Hz.`
          : "The simulated car does not answer."}
      </p>
      <div className="choices" role="group" aria-label="The driver">
        {(now?.intents ?? []).map((intent) => (
          <button
            key={intent}
            type="button"
            onClick={() => ask({ drive: intent as NonNullable<Order["drive"]> })}
          >
            {intent}
          </button>
        ))}
        <button type="button" onClick={() => ask({ drive: "launch", drop_out_s: 1.5 })}>
          launch, receiver drop-out
        </button>
      </div>
      <div className="choices" role="group" aria-label="The car">
        <Select
          aria-label="Car and setup"
          showSearch
          optionFilterProp="label"
          className="pick wide"
          value={setup}
          onChange={setSetup}
          options={setups}
        />
        <label>
          Charge <InputNumber min={0} max={100} suffix="%" value={charge} onChange={setCharge} />
        </label>
        <label>
          Battery <QuantityInput kind="temperature" value={battery} onChange={setBattery} />
        </label>
        <button
          type="button"
          onClick={() =>
            ask({
              setup: setup,
              ...(charge === null ? {} : { charge_percent: charge }),
              ...(battery === null ? {} : { battery_temp_c: battery }),
            })
          }
        >
          apply
        </button>
      </div>
      {failed && <p className="flag void">{failed.message}</p>}
    </section>
  );
}
