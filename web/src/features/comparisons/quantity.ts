import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf, type Family, type Kind } from "../../shared/units";
import type { Difference, Result } from "./queries";

/** How the compared quantity is shown in the chosen unit family. */
export interface Shown {
  unit: string;
  digits: number;
  of: (si: number) => number;
  text: (si: number | null) => string;
}

export function useQuantity(result: Result): Shown {
  const { family } = usePreferences();
  const si = result.pairs[0]?.unit ?? "s";
  return shownAs(si === "m" ? "distance" : si === "m/s" ? "speed" : si === "kW" ? "power" : "time", family);
}

const KINDS: Record<string, Kind> = {
  distance: "distance",
  line_speed: "speed",
  trap_speed: "speed",
  peak_power: "power",
};

/** How a quantity by its name is shown. */
export function quantityOf(name: string | undefined, family: Family): Shown {
  return shownAs(KINDS[name ?? ""] ?? "time", family);
}

function shownAs(kind: Kind, family: Family): Shown {
  const unit = unitOf(kind, family);
  const digits = kind === "time" ? 3 : unit.digits + 1;
  const of = (value: number) => value / unit.factor;
  return {
    unit: unit.name,
    digits,
    of,
    text: (value) => fixed(value === null ? null : of(value), digits),
  };
}

/** With a sign; one digit less than a single value has, unless the interval is finer than that. */
export function signed(si: number, quantity: Shown, difference?: Difference): string {
  const text = fixed(quantity.of(si), digitsOf(quantity, difference));
  return si > 0 ? `+${text}` : text;
}

export function halfWidth(difference: Difference, quantity: Shown): string {
  return fixed(quantity.of((difference.high95 - difference.low95) / 2), digitsOf(quantity, difference));
}

function digitsOf(quantity: Shown, difference?: Difference): number {
  if (!difference) return quantity.digits;
  const half = quantity.of((difference.high95 - difference.low95) / 2);
  return half < 10 ** (1 - quantity.digits) ? quantity.digits : quantity.digits - 1;
}
