import { usePreferences } from "../../shared/preferences";
import { fixed, withUnit } from "../../shared/units";
import { useLivePart, useLiveState, type LiveStore } from "./live";
import type { Strip } from "./queries";

/** Charge and battery against the window, what the charge still allows, the wait, and the wind. */
export function Chips({ strip, store }: { strip: Strip; store: LiveStore }) {
  const { family } = usePreferences();
  const state = useLiveState(store);
  const now_s = useLivePart(store, ({ glance }) => (glance?.utc_s ? Math.floor(glance.utc_s) : null));
  const last = strip.last_run;
  const charge = state?.charge_percent ?? last?.charge_after_percent ?? null;
  const battery = state?.battery_temp_c ?? last?.battery_temp_after_c ?? null;
  const { window } = strip;
  const since =
    now_s !== null && state?.last_end_s ? Math.max(now_s - Math.floor(state.last_end_s), 0) : null;
  const cool = since === null ? 0 : Math.round(strip.cooling_min * 60) - since;
  const left =
    charge !== null && window && strip.charge_per_run_percent > 0
      ? Math.max(Math.floor((charge - window.low_charge_percent) / strip.charge_per_run_percent), 0)
      : null;
  return (
    <dl className="chips" aria-label="State">
      <Chip
        name="Charge"
        value={charge === null ? "–" : `${fixed(charge, 0)} %`}
        note={against(charge, window?.low_charge_percent, window?.high_charge_percent)}
      />
      <Chip
        name="Battery"
        value={withUnit(battery, "temperature", family)}
        note={against(battery, window?.low_battery_temp_c, window?.high_battery_temp_c)}
      />
      {left !== null && (
        <Chip
          name="Runs left in the charge"
          value={String(left)}
          note={`${strip.runs_open} planned`}
          warns={left < strip.runs_open}
        />
      )}
      <Chip name="Since the last run" value={since === null ? "–" : clock(since)} note="" />
      {cool > 0 && <Chip name="Cool the brakes" value={clock(cool)} note="then stage" warns />}
      <Chip
        name="Wind"
        value={state?.wind_mps == null ? "–" : withUnit(state.wind_mps, "speed", family, 0)}
        note={state?.wind_from_deg == null ? "" : `from ${fixed(state.wind_from_deg, 0)}°`}
      />
    </dl>
  );
}

function Chip({
  name,
  value,
  note,
  warns = false,
}: {
  name: string;
  value: string;
  note: string;
  warns?: boolean;
}) {
  const out = warns || note.startsWith("below") || note.startsWith("above");
  return (
    <div className={out ? "chip out" : "chip"}>
      <dt>{name}</dt>
      <dd>
        {value} {note && <small>{out ? `! ${note}` : note}</small>}
      </dd>
    </div>
  );
}

/** A value against a window, in words. */
function against(value: number | null, low?: number, high?: number): string {
  if (value === null || low === undefined || high === undefined) return "";
  if (value < low) return "below the window";
  return value > high ? "above the window" : "in the window";
}

function clock(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}
