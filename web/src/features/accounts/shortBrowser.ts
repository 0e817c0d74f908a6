/** Kinds in the order in which they are looked for: most browsers also name others. */
const KINDS: [RegExp, string][] = [
  [/iPhone|iPad/, "phone or tablet"],
  [/Android/, "phone or tablet"],
  [/Windows|Macintosh|Linux/, "computer"],
];

/** What a browser says of itself, as short as a person needs to know theirs again. */
export function shortBrowser(named: string): string {
  if (!named) return "unknown";
  const kind = KINDS.find(([pattern]) => pattern.test(named))?.[1];
  const system = /\((?:X11; )?([^;)]+)/.exec(named)?.[1];
  return kind ? `${kind} (${system})` : named.slice(0, 40);
}
