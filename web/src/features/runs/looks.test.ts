import { describe, expect, it } from "vitest";

import { goesWith, runsIn, type Found, type Looked } from "./looks";

function found(key: number, kind: Looked["kind"], start: string | null, duration_s = 600): Found {
  const look = {
    kind,
    format: "",
    start_utc: start && `2026-05-09T${start}:00Z`,
    duration_s,
    rate_hz: 25,
    date_known: true,
    runs: {},
    course: null,
    heading_deg: null,
    already: null,
    odd: [],
  };
  return { key, file: new File([], `${key}`), look };
}

describe("a CAN log", () => {
  it("goes with the receiver log of its time", () => {
    const both = [found(1, "receiver log", "10:00"), found(2, "receiver log", "11:00")];
    expect([...goesWith([...both, found(3, "CAN log", "11:02")])]).toEqual([[3, 2]]);
    expect([...goesWith([...both, found(3, "CAN log", "12:00")])]).toEqual([]);
  });

  it("goes with the only receiver log where its clock shows no date, and each of two with one", () => {
    const one = found(1, "receiver log", "10:00");
    expect([...goesWith([one, found(3, "CAN log", null)])]).toEqual([[3, 1]]);
    const two = [found(3, "CAN log", "10:01"), found(4, "CAN log", "10:02")];
    expect([...goesWith([one, ...two])]).toEqual([[3, 1]]);
  });
});

it("runs are counted in words", () => {
  const { look } = found(1, "receiver log", "10:00");
  expect(runsIn({ ...(look as Looked), runs: { standing: 5, stop: 1 } })).toBe("5 standing starts, 1 stop");
});
