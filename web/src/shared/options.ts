/** Words as the options of a select. */
export function asOptions(values: readonly string[]) {
  return values.map((value) => ({ value, label: value }));
}
