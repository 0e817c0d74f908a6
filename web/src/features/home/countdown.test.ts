import { describe, expect, it } from "vitest";

import { countdown } from "./countdown";

const NOW = new Date("2026-05-09T08:00:00Z");

describe("countdown", () => {
  it.each([
    ["2026-05-09T07:59:00Z", "now"],
    ["2026-05-09T08:25:00Z", "in 25 min"],
    ["2026-05-09T10:05:00Z", "in 2 h 5 min"],
    ["2026-05-10T14:00:00Z", "in 1 d 6 h"],
    ["2026-05-16T20:00:00Z", "in 8 days"],
  ])("says how long it is until %s", (until, words) => {
    expect(countdown(new Date(until), NOW)).toBe(words);
  });
});
