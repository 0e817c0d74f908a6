import { InputNumber } from "antd";
import { useState } from "react";

import { QuantityInput } from "../../shared/QuantityInput";
import { fixed } from "../../shared/units";
import { useStandIn, type Order } from "./queries";

/** The stand-in driver and car. Marked as what it is: nothing here is measured on a road. */
export function SimulationPanel({ recorder }: { recorder: number }) {
  const { stands, order } = useStandIn(recorder);
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
          ? `The stand-in ${now.idle ? "waits" : "drives"}. Charge ${fixed(now.charge_percent, 1)} %, receiver ${fixed(now.rate_hz, 0)} Hz.`
          : "The stand-in does not answer."}
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
              set_up: true,
              ...(charge === null ? {} : { charge_percent: charge }),
              ...(pack === null ? {} : { pack_temp_c: pack }),
            })
          }
        >
          set, with the next run’s set-up
        </button>
      </div>
      {failed && <p className="flag void">{failed.message}</p>}
    </section>
  );
}
