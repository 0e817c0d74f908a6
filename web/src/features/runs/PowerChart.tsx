import { useMemo } from "react";

import type { Schemas } from "../../api/client";
import type { Link } from "../../shared/Chart";
import { axis, Chart, palette, pointerSeries, tooltip, valueAt } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, withUnit, type Family } from "../../shared/units";
import type { Palette } from "../../theme";
import { usePower, type Run } from "./queries";

type Power = NonNullable<Schemas["PowerAnswer"]["power"]>;
const ASSUMED: Record<string, string> = {
  cda_m2: "drag area",
  rolling_coefficient: "rolling coefficient",
  rotating_mass_factor: "rotating-mass factor",
};

/** Wheel power against speed, its peak, where it tapers, and what it rests on. */
export function PowerChart({ run, curve }: { run: Run; curve: Schemas["Curve"]["curve"] }) {
  const answer = usePower(run.id);
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const power = answer.data?.power ?? null;
  const option = useMemo(() => (power ? powerOption(power, family, p) : null), [power, family, p]);
  const link = useMemo(() => (power ? powerLink(power, curve, family) : undefined), [power, curve, family]);
  if (!answer.data || (!power && !answer.data.missing)) return null;
  return (
    <section className="sheet">
      <h2>Power at the wheels</h2>
      {power && option ? (
        <>
          <p style={{ margin: "0 0 8px" }}>
            <strong>{fixed(power.peak_kw, 0)} kW</strong> at {withUnit(power.peak_at_mps, "speed", family, 0)}{" "}
            <span className="quiet">
              ({fixed(power.peak_metric_hp, 0)} metric hp, {fixed(power.peak_mechanical_hp, 0)} mechanical hp)
            </span>
            {power.tapers_from_mps !== null && (
              <> · tapers from {withUnit(power.tapers_from_mps, "speed", family, 0)}</>
            )}
          </p>
          <Chart
            option={option}
            link={link}
            height={230}
            label={`Wheel power against speed, peak ${fixed(power.peak_kw, 0)} kW`}
          />
          <p className="label">{restsOn(power, family)}</p>
        </>
      ) : (
        <p>{answer.data.missing}</p>
      )}
    </section>
  );
}

function restsOn(power: Power, family: Family): string {
  const assumed = power.assumed.map((name) => ASSUMED[name] ?? name).join(", ");
  const air = `air ${fixed(power.density_kg_m3, 3)} kg/m³ (density altitude ${withUnit(power.density_altitude_m, "distance", family, 0)})`;
  const wind = `head wind ${withUnit(power.head_wind_mps, "speed", family)}`;
  const mass = `test mass ${withUnit(power.mass_kg, "mass", family)}`;
  return `Rests on ${mass}, ${air}, ${wind}.${assumed ? ` Assumed: ${assumed}.` : ""}`;
}

function powerLink(power: Power, curve: Schemas["Curve"]["curve"], family: Family): Link {
  const factor = unitOf("speed", family).factor;
  return {
    sinceAt(x) {
      const index = curve.speed_mps.findIndex((mps) => mps >= x * factor);
      return index < 0 ? null : (curve.since_s[index] ?? null);
    },
    pointAt(at_s) {
      const mps = valueAt(curve.since_s, curve.speed_mps, at_s);
      const kw = mps === null ? null : valueAt(power.speed_mps, power.power_kw, mps);
      return mps === null || kw === null ? null : [mps / factor, kw];
    },
  };
}

function powerOption(power: Power, family: Family, p: Palette) {
  const unit = unitOf("speed", family);
  return {
    grid: { left: 56, right: 20, top: 12, bottom: 46 },
    tooltip: { trigger: "axis", ...tooltip(p), valueFormatter: (value: number) => `${fixed(value, 0)} kW` },
    xAxis: { ...axis(p, unit.name), min: 0 },
    yAxis: { ...axis(p, "kW"), nameGap: 40, min: 0 },
    series: [
      {
        name: "Wheel power",
        type: "line",
        symbol: "none",
        lineStyle: { color: p.ink, width: 2 },
        itemStyle: { color: p.ink },
        data: power.speed_mps.map((mps, index) => [
          Number(shown(mps, "speed", family).toFixed(2)),
          power.power_kw[index] ?? null,
        ]),
      },
      pointerSeries(p),
    ],
  };
}
