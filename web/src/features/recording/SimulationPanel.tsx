import { InputNumber, Select } from "antd";
import { useState } from "react";

import { QuantityInput } from "../../shared/QuantityInput";
import { fixed } from "../../shared/units";
import { useSetUpOptions } from "../cars/useSetUpOptions";
import { useSimulation, type Order, type Strip } from "./queries";

/** The simulated driver and car. Marked as what it is: nothing here is measured on a road. */
export function SimulationPanel({ strip }: { strip: Strip }) {
  const { stands, order } = useSimulation(strip.recorder.id);
  const setUps = useSetUpOptions();
  const [setUp, setSetUp] = useState(strip.recorder.set_up);
  const [charge, setCharge] = useState<number | null>(null);
  const [pack, setPack] = useState<number | null>(null);
  const now = stands.data;
  const failed = order.error ?? stands.error;
  const ask = (given: Order) => order.mutate(given);
  return (
    <section className="sheet simulation" aria-label="Simulation">
      <h2>Simulation: no real car moves</h2>
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
          launch, receiver drops out
        </button>
      </div>
      <div className="choices" role="group" aria-label="The car">
        <Select
          aria-label="Car and set-up"
          showSearch
          optionFilterProp="label"
          style={{ minWidth: 240 }}
          value={setUp}
          onChange={setSetUp}
          options={setUps}
        />
        <label>
          Charge <InputNumber min={0} max={100} suffix="%" value={charge} onChange={setCharge} />
        </label>
        <label>
          Pack <QuantityInput kind="temperature" value={pack} onChange={setPack} />
        </label>
        <button
          type="button"
          onClick={() =>
            ask({
              set_up: setUp,
              ...(charge === null ? {} : { charge_percent: charge }),
              ...(pack === null ? {} : { pack_temp_c: pack }),
            })
          }
        >
          make it so
        </button>
      </div>
      {failed && <p className="flag void">{failed.message}</p>}
    </section>
  );
}
