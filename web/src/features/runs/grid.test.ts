import { describe, expect, it } from "vitest";

import { cellKey, changesOf, filledDown, pasted } from "./grid";
import type { RunRow } from "./queries";

function run(id: number, values: Partial<RunRow> = {}): RunRow {
  return { id, revision: 3, drive_mode: "", driver: "", ...values } as RunRow;
}

describe("the grid of conditions", () => {
  const runs = [run(1, { charge_before_percent: 90 }), run(2), run(3)];

  it("takes cells from a spreadsheet, decimal commas and units too, and leaves out what goes beyond it", () => {
    const typed = pasted({}, "91\t90\t40 °C\r\n89,5\t\t104\n88\n87\n", 0, 0, runs.length);
    const { rows, wrong } = changesOf(runs, typed, "us");
    expect(wrong).toEqual([]);
    expect(rows.map((row) => row.changes)).toEqual([
      { charge_before_percent: 91, charge_after_percent: 90, battery_temp_before_c: 40 },
      { charge_before_percent: 89.5, battery_temp_before_c: 40 },
      { charge_before_percent: 88 },
    ]);
    expect(rows[0]).toMatchObject({ id: 1, revision: 3 });
  });

  it("leaves what is stored where a pasted cell is empty, as merged cells are", () => {
    const typed = pasted({}, "\t89\n\n", 0, 0, runs.length);
    expect(changesOf(runs, typed, "us").rows.map((row) => row.changes)).toEqual([
      { charge_after_percent: 89 },
    ]);
  });

  it("fills down, and sends nothing for what is so already", () => {
    const typed = filledDown({}, "90", 0, 0, runs.length);
    expect(changesOf(runs, typed, "us").rows.map((row) => row.id)).toEqual([2, 3]);
  });

  it("names a cell that holds no number, and empties one that is cleared", () => {
    const typed = { [cellKey(0, 0)]: "", [cellKey(1, 2)]: "warm" };
    const { rows, wrong } = changesOf(runs, typed, "metric");
    expect(wrong).toEqual([cellKey(1, 2)]);
    expect(rows).toEqual([{ id: 1, revision: 3, changes: { charge_before_percent: null } }]);
  });
});
