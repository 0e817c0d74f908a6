import { api, body, type Schemas } from "../../api/client";

type Car = Schemas["Car"];
type Setup = Schemas["Setup"];

/** The car of that name, made where there is none. */
export async function carNamed(name: string): Promise<Car> {
  const cars = body(await api.GET("/api/v1/cars/", { params: { query: { page_size: 500 } } })).results;
  const known = cars.find((each) => isSame(each.name, name));
  return known ?? body(await api.POST("/api/v1/cars/", { body: { name: name.trim() } }));
}

/** A new setup of a car; `since` is its first day. */
export async function addSetup(
  car: Car,
  name: string,
  change: Schemas["SetupRequest"]["change"],
  since = new Date().toISOString().slice(0, 10),
): Promise<Setup> {
  return body(await api.POST("/api/v1/setups/", { body: { car: car.id, name: name.trim(), since, change } }));
}

/** Whether two names are one, however they are written. */
export function isSame(one: string, other: string): boolean {
  return one.trim().toLowerCase() === other.trim().toLowerCase();
}
