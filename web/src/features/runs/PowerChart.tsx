import { useMemo, type ReactNode } from "react";

import type { Schemas } from "../../api/client";
import type { Link } from "../../shared/Chart";
import { axis, Chart, palette, pointerSeries, tooltip, valueAt } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, withUnit, type Family } from "../../shared/units";
import type { Palette } from "../../theme";
import { usePower, type Run } from "./queries";

type Power = NonNullable<Schemas["PowerAnswer"]["power"]>;
type Battery = NonNullable<Schemas["PowerAnswer"]["battery"]>;
const ASSUMED: Record<string, string> = {
  cda_m2: "drag area",
  rolling_coefficient: "rolling coefficient",
  rotating_mass_factor: "rotating-mass factor",
};

/** Power at the wheels and from the battery against speed, their peaks, where they taper, and what they rest on. */
export function PowerChart({ run, curve }: { run: Run; curve: Schemas["Curve"]["curve"] }) {
  const answer = usePower(run.id);
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const power = answer.data?.power ?? null;
  const battery = answer.data?.battery ?? null;
  const drawn = power ?? battery;
  const option = useMemo(() => powerOption(power, battery, family, p), [power, battery, family, p]);
  const link = useMemo(() => (drawn ? powerLink(drawn, curve, family) : undefined), [drawn, curve, family]);
  if (!answer.data || (!drawn && !answer.data.missing)) return null;
  const peaks = [
    power && `wheels ${fixed(power.peak_kw, 0)} kW`,
    battery && `battery ${fixed(battery.peak_kw, 0)} kW`,
  ];
  return (
    <section className="sheet">
      <h2>{battery ? "Power at the wheels and from the battery" : "Power at the wheels"}</h2>
      {power && (
        <Peak what="wheels" power={power} family={family}>
          {` (${fixed(power.peak_metric_hp, 0)} metric hp, ${fixed(power.peak_mechanical_hp, 0)} mechanical hp)`}
        </Peak>
      )}
      {battery && (
        <Peak what="battery" power={battery} family={family}>
          {power && ` (${fixed((100 * power.peak_kw) / battery.peak_kw, 0)} % of it reaches the wheels)`}
        </Peak>
      )}
      {drawn && (
        <Chart
          option={option}
          link={link}
          height={230}
          label={`Power against speed, peak: ${peaks.filter(Boolean).join(", ")}`}
        />
      )}
      {power ? <p className="label">{restsOn(power, family)}</p> : <p>{answer.data.missing}</p>}
    </section>
  );
}

function Peak(props: { what: string; power: Battery; family: Family; children: ReactNode }) {
  const { what, power, family, children } = props;
  return (
    <p className="flush below">
      <strong>{fixed(power.peak_kw, 0)} kW</strong> {what} at{" "}
      {withUnit(power.peak_at_mps, "speed", family, 0)}
      <span className="quiet">{children}</span>
      {power.tapers_from_mps !== null && (
        <> · tapers from {withUnit(power.tapers_from_mps, "speed", family, 0)}</>
      )}
    </p>
  );
}

function restsOn(power: Power, family: Family): string {
  const assumed = power.assumed.map((name) => ASSUMED[name] ?? name).join(", ");
  const air = `air ${fixed(power.density_kg_m3, 3)} kg/m³ (density altitude ${withUnit(power.density_altitude_m, "distance", family, 0)})`;
  const wind = `head wind ${withUnit(power.head_wind_mps, "speed", family)}`;
  const mass = `test mass ${withUnit(power.mass_kg, "mass", family)}`;
  return `Based on ${mass}, ${air}, ${wind}.${assumed ? ` Assumed: ${assumed}.` : ""}`;
}

function powerLink(power: Battery, curve: Schemas["Curve"]["curve"], family: Family): Link {
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

function powerOption(power: Power | null, battery: Battery | null, family: Family, p: Palette) {
  const unit = unitOf("speed", family);
  return {
    grid: { left: 56, right: 56, top: 12, bottom: 46 },
    tooltip: { trigger: "axis", ...tooltip(p), valueFormatter: (value: number) => `${fixed(value, 0)} kW` },
    xAxis: { ...axis(p, unit.name), min: 0 },
    yAxis: { ...axis(p, "kW"), nameGap: 40, min: 0 },
    series: [
      ...(power ? [line("Wheels", power, family, p, "solid")] : []),
      ...(battery ? [line("Battery", battery, family, p, "dashed")] : []),
      pointerSeries(p),
    ],
  };
}

function line(name: string, power: Battery, family: Family, p: Palette, type: "solid" | "dashed") {
  return {
    name,
    type: "line",
    symbol: "none",
    lineStyle: { color: p.ink, width: type === "solid" ? 2 : 1.5, type },
    itemStyle: { color: p.ink },
    labelLayout: { moveOverlap: "shiftY" },
    endLabel: { show: true, formatter: name.toLowerCase(), color: p.ink },
    data: power.speed_mps.map((mps, index) => [
      Number(shown(mps, "speed", family).toFixed(2)),
      power.power_kw[index] ?? null,
    ]),
  };
}
