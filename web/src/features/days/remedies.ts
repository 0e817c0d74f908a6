import type { Schemas } from "../../api/client";

type Remedy = Schemas["Remedy"];

/** Remedies that begin with the same change stand under it, so that it is read once. */
export function together(remedies: readonly Remedy[]) {
  const begun = new Map<string, Remedy[]>();
  for (const remedy of remedies) {
    const first = remedy.parts.length > 1 ? (remedy.parts[0] ?? "") : remedy.sentence;
    begun.set(first, [...(begun.get(first) ?? []), remedy]);
  }
  return [...begun].map(([first, each]) => {
    const shared = each.length > 1 ? first : undefined;
    const restOf = ({ sentence, parts }: Remedy) =>
      shared ? lowered(parts.slice(1).join(" and ")) : sentence;
    return { shared, each: each.map((remedy) => ({ ...remedy, rest: restOf(remedy) })) };
  });
}

function lowered(text: string): string {
  return text.slice(0, 1).toLowerCase() + text.slice(1);
}
