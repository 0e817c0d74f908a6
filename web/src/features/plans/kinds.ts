/** Kinds of test as the API names them; only the first is called otherwise on screen. */
export const KINDS = ["groups", "charge sweep", "braking series", "roll-ons", "side by side"];

export function kindName(kind: string | undefined): string {
  return kind === undefined || kind === "groups" ? "groups" : kind;
}
