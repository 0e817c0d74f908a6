/** Unit families: SI inside, converted only here, at the edge. Factors are exact. */
export type Family = "us" | "metric";
export type Kind =
  | "speed"
  | "distance"
  | "temperature"
  | "pressure"
  | "mass"
  | "time"
  | "percent"
  | "air"
  | "angle"
  | "plain"
  | "odometer"
  | "acceleration"
  | "power"
  | "ratio";

interface Unit {
  name: string;
  factor: number;
  offset?: number;
  digits: number;
}

const MPH = 0.44704;
const KMH = 1 / 3.6;
const FOOT = 0.3048;
const UNITS: Record<Kind, Record<Family, Unit>> = {
  speed: { us: { name: "mph", factor: MPH, digits: 1 }, metric: { name: "km/h", factor: KMH, digits: 1 } },
  distance: { us: { name: "ft", factor: FOOT, digits: 1 }, metric: { name: "m", factor: 1, digits: 1 } },
  temperature: {
    us: { name: "°F", factor: 5 / 9, offset: 32, digits: 0 },
    metric: { name: "°C", factor: 1, digits: 0 },
  },
  pressure: {
    us: { name: "psi", factor: 6.894757293168361, digits: 1 },
    metric: { name: "kPa", factor: 1, digits: 0 },
  },
  mass: {
    us: { name: "lb", factor: 0.45359237, digits: 0 },
    metric: { name: "kg", factor: 1, digits: 0 },
  },
  odometer: { us: { name: "mi", factor: 1.609344, digits: 0 }, metric: { name: "km", factor: 1, digits: 0 } },
  time: { us: { name: "s", factor: 1, digits: 2 }, metric: { name: "s", factor: 1, digits: 2 } },
  percent: { us: { name: "%", factor: 1, digits: 0 }, metric: { name: "%", factor: 1, digits: 0 } },
  air: { us: { name: "hPa", factor: 1, digits: 0 }, metric: { name: "hPa", factor: 1, digits: 0 } },
  acceleration: {
    us: { name: "g", factor: 9.80665, digits: 2 },
    metric: { name: "g", factor: 9.80665, digits: 2 },
  },
  power: { us: { name: "kW", factor: 1, digits: 0 }, metric: { name: "kW", factor: 1, digits: 0 } },
  ratio: { us: { name: "", factor: 1, digits: 3 }, metric: { name: "", factor: 1, digits: 3 } },
  angle: { us: { name: "°", factor: 1, digits: 0 }, metric: { name: "°", factor: 1, digits: 0 } },
  plain: { us: { name: "", factor: 1, digits: 0 }, metric: { name: "", factor: 1, digits: 0 } },
};

export function unitOf(kind: Kind, family: Family): Unit {
  return UNITS[kind][family];
}

const SUFFIXES: [string, Kind][] = [
  ["_percent", "percent"],
  ["_mps", "speed"],
  ["_kpa", "pressure"],
  ["_hpa", "air"],
  ["_km", "odometer"],
  ["_kg", "mass"],
  ["_c", "temperature"],
  ["_m", "distance"],
  ["_s", "time"],
];

/** What kind of quantity a field of the API holds, by the unit that ends its name. */
export function kindOfField(name: string): Kind | null {
  return SUFFIXES.find(([suffix]) => name.endsWith(suffix))?.[1] ?? null;
}

/** A field's name without its unit, as people read it. */
export function fieldLabel(name: string): string {
  const suffix = SUFFIXES.find(([each]) => name.endsWith(each))?.[0] ?? "";
  return name.slice(0, name.length - suffix.length).replaceAll("_", " ");
}

/** An SI value in the family's unit. */
export function shown(si: number, kind: Kind, family: Family): number {
  const unit = unitOf(kind, family);
  return si / unit.factor + (unit.offset ?? 0);
}

/** A value in the family's unit as SI, free of the dust of conversion. */
export function toSi(value: number, kind: Kind, family: Family): number {
  const unit = unitOf(kind, family);
  return Number(((value - (unit.offset ?? 0)) * unit.factor).toPrecision(12));
}

/** Units that may be typed behind a number, whatever the page is in: what makes SI of one. */
const TYPED: Partial<Record<Kind, Record<string, Pick<Unit, "factor" | "offset">>>> = {
  temperature: { c: { factor: 1 }, f: { factor: 5 / 9, offset: 32 } },
  pressure: { kpa: { factor: 1 }, psi: { factor: 6.894757293168361 }, bar: { factor: 100 } },
  mass: { kg: { factor: 1 }, lb: { factor: 0.45359237 }, lbs: { factor: 0.45359237 } },
  speed: { mph: { factor: MPH }, "km/h": { factor: KMH }, kmh: { factor: KMH }, "m/s": { factor: 1 } },
  distance: { m: { factor: 1 }, ft: { factor: FOOT } },
  odometer: { km: { factor: 1 }, mi: { factor: 1.609344 } },
};

/** What was typed as a number in the family's unit: with a decimal comma, or with another unit behind it, too. */
export function typedNumber(text: string, kind: Kind, family: Family): number {
  const parts = /^\s*([+\-−]?\d*[.,]?\d*)\s*°?\s*([a-z/%]*)\s*$/i.exec(text);
  if (!parts?.[1]) return NaN;
  const value = Number(parts[1].replace("−", "-").replace(",", "."));
  const own = unitOf(kind, family).name.replace("°", "").toLowerCase();
  const name = parts[2]?.toLowerCase() ?? "";
  if (name === "" || name === own) return value;
  const unit = TYPED[kind]?.[name];
  return unit ? shown((value - (unit.offset ?? 0)) * unit.factor, kind, family) : NaN;
}

/** A number with its digits, a real minus sign, or a dash where there is none. */
export function fixed(value: number | null | undefined, digits: number): string {
  if (value === null || value === undefined) return "–";
  const text = value.toFixed(digits);
  return Number(text) === 0 ? text.replace("-", "") : text.replace("-", "−");
}

export function withUnit(si: number | null | undefined, kind: Kind, family: Family, digits?: number): string {
  if (si === null || si === undefined) return "–";
  const unit = unitOf(kind, family);
  const gap = unit.name === "°" ? "" : "\u00a0"; // a number and its unit stay on one line
  return `${fixed(shown(si, kind, family), digits ?? unit.digits)}${gap}${unit.name}`.trim();
}

const MOST_DIGITS = 4;

/** Digits that the interval needs: two figures of it, and never one that is zero. */
export function digitsFor(u95: number | null | undefined, usual: number): number {
  if (!u95 || !Number.isFinite(u95)) return usual;
  return Math.min(Math.max(1 - Math.floor(Math.log10(u95)), 0), MOST_DIGITS);
}

/** The digits that are usual, and one more where the interval would read as zero. */
export function digitsBeside(u95: number | null | undefined, usual: number): number {
  return Math.max(usual, u95 && u95 < 0.5 * 10 ** -usual ? digitsFor(u95, usual) : usual);
}
