import { useRef } from "react";

import type { Schemas } from "../../../api/client";
import { addSetup, carNamed, isSame } from "../../cars/making";

/** The setups that logs go to. */
export interface Made {
  before: number;
  after: number;
}

type Car = Schemas["Car"];
const SOFTWARE = /update|software|version|firmware|\d+\.\d+/i;

/** Makes the car and its two setups where they are not there yet, once for both sides. */
export function useMade() {
  const made = useRef<{ key: string; setups: Promise<Made> } | null>(null);
  return (car: string, change: string): Promise<Made> => {
    const key = JSON.stringify([car, change]);
    if (made.current?.key !== key) {
      const setups = make(car, change).catch((error: unknown) => {
        made.current = null;
        throw error;
      });
      made.current = { key, setups };
    }
    return made.current.setups;
  };
}

async function make(name: string, change: string): Promise<Made> {
  const car = await carNamed(name);
  const { before, after } = setupsOf(car, change);
  const first = before ?? (await addSetup(car, "As it was", "as delivered"));
  const second = after ?? (await addSetup(car, change, SOFTWARE.test(change) ? "software update" : "other"));
  return { before: first.id, after: second.id };
}

/** The setup of a car that has the change, and the latest one without it; none that is not there. */
export function setupsOf(car: Pick<Car, "setups">, change: string) {
  const after = car.setups.find((setup) => isSame(setup.name, change));
  const before = car.setups.filter((setup) => setup !== after).at(-1);
  return { before, after };
}
