import { expect, it } from "vitest";

import { GLOSSARY, meaningOf, rowsOf } from "./glossary";

const PAGES = import.meta.glob<string>("../**/*.tsx", {
  query: "?raw", // an import as text
  import: "default",
  eager: true,
});

it("is the table of the docs without its marks", () => {
  expect(rowsOf("| word | meaning |\n| --- | --- |\n| trap speed | *mean* `speed` |\n")).toEqual([
    ["trap speed", "mean speed"],
  ]);
  expect(GLOSSARY.length).toBeGreaterThan(30);
  expect(() => meaningOf("no such word")).toThrow("not in docs/glossary.md");
});

it("has every word that a page explains", () => {
  const asked = Object.values(PAGES).flatMap((page) =>
    [...page.matchAll(/<Term word="([^"]+)"/g)].map((found) => found[1] ?? ""),
  );
  expect(asked.length).toBeGreaterThan(5);
  asked.forEach((word) => expect(meaningOf(word)).not.toBe(""));
});
