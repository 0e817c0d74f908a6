import { useRef } from "react";

import { api, body, type Schemas } from "../../../api/client";

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
  const cars = body(await api.GET("/api/v1/cars/", { params: { query: { page_size: 500 } } })).results;
  const car = cars.find((each) => same(each.name, name)) ?? (await post(name));
  const { before, after } = setupsOf(car, change);
  const first = before ?? (await add(car, "As it was", "as delivered"));
  const second = after ?? (await add(car, change, SOFTWARE.test(change) ? "software update" : "other"));
  return { before: first.id, after: second.id };
}

async function post(name: string): Promise<Car> {
  return body(await api.POST("/api/v1/cars/", { body: { name } }));
}

async function add(car: Car, name: string, change: "as delivered" | "software update" | "other") {
  const since = new Date().toISOString().slice(0, 10);
  return body(await api.POST("/api/v1/setups/", { body: { car: car.id, name, since, change } }));
}

/** The setup of a car that has the change, and the latest one without it; none that is not there. */
export function setupsOf(car: Pick<Car, "setups">, change: string) {
  const after = car.setups.find((setup) => same(setup.name, change));
  const before = car.setups.filter((setup) => setup !== after).at(-1);
  return { before, after };
}

function same(one: string, other: string): boolean {
  return one.trim().toLowerCase() === other.trim().toLowerCase();
}
