import text from "../../../docs/glossary.md?raw";

/** The words of docs/glossary.md with what they mean, in its order. */
export const GLOSSARY: readonly [word: string, meaning: string][] = rowsOf(text);

/** The rows of the table in a page, without its marks of emphasis. */
export function rowsOf(page: string): [string, string][] {
  return page
    .split("\n")
    .map((line) => /^\| (.+?) \| (.+) \|$/.exec(line))
    .filter((found) => found !== null)
    .map((found): [string, string] => [plain(found[1] ?? ""), plain(found[2] ?? "")])
    .filter(([word]) => word !== "word" && !word.startsWith("---"));
}

/** What a word means. Raises Error for one that the glossary lacks. */
export function meaningOf(word: string): string {
  const found = GLOSSARY.find(([known]) => known === word);
  if (!found) throw new Error(`${word} is not in docs/glossary.md`);
  return found[1];
}

function plain(marked: string): string {
  return marked.replace(/[*`]/g, "");
}
