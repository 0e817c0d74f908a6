const CAUTIONS: [RegExp, string][] = [
  [
    /^\/(record|days)/,
    "Closed course or private land, under local law, with a sober licensed driver, belts on and nobody near the strip. The driver never operates this screen.",
  ],
  [
    /^\/(plans|courses)/,
    "A strip must leave room to stop, and a little more: walk it before the first run. Closed course or private land, under local law.",
  ],
  [
    /^\/cars/,
    "Brakes, tires and wheels carry the test: keep to their ratings. Work on high voltage belongs to licensed hands.",
  ],
];
const ELSEWHERE =
  "Measured on closed courses under local law. No number here is a reason to try it on a road.";

/** The caution that fits where somebody is. */
export function cautionAt(pathname: string): string {
  return CAUTIONS.find(([place]) => place.test(pathname))?.[1] ?? ELSEWHERE;
}
