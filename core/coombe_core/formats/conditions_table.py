"""Conditions pasted from a spreadsheet: which row is which run, and what looks like a slip of row or of table."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Literal

from coombe_core.units import celsius

CHARGES = ("charge_before_percent", "charge_after_percent")
TEMPS = ("battery_temp_before_c", "battery_temp_after_c", "outside_temp_c")
ORDER = (*CHARGES, *TEMPS)  # of the columns where there is no heading
HEADINGS = {
    "time": "time",
    "start": "time",
    "charge": CHARGES[0],
    "charge before": CHARGES[0],
    "charge after": CHARGES[1],
    "battery": TEMPS[0],
    "battery before": TEMPS[0],
    "battery after": TEMPS[1],
    "outside": TEMPS[2],
}
RANGES = {
    **dict.fromkeys(CHARGES, (0.0, 100.0)),
    TEMPS[0]: (-40.0, 90.0),
    TEMPS[1]: (-40.0, 90.0),
    TEMPS[2]: (-50.0, 60.0),
}
NEAR = timedelta(minutes=2)
CHARGE_SLACK = 0.6  # a dashboard shows whole points
SHIFT_TELLS = 0.5  # rows moved by one that disagree less than this share of what they do as they stand
LEAST_DISAGREEMENT = 1.0
Code = Literal[
    "no run near",
    "no run left",
    "no number",
    "not possible",
    "share",
    "heading",
    "empty cells",
    "two rows for one run",
    "counts differ",
    "shifted",
    "charge rises",
]


@dataclass(frozen=True)
class KnownRun:
    """A run that rows may belong to: its start on the clock at the course, and what is recorded of it."""

    start: datetime
    values: dict[str, float | None]


@dataclass(frozen=True)
class Remark:
    """Something doubtful or wrong: a code, the column that it is about, the cell as it stands, and numbers."""

    code: Code
    column: str = ""
    cell: str = ""
    numbers: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class PastedRow:
    """One row: its line from 1, the index of its run, its values in SI, what is doubtful and what is wrong."""

    line: int
    run: int | None
    values: dict[str, float]
    doubts: list[Remark] = field(default_factory=list)
    wrong: list[Remark] = field(default_factory=list)


@dataclass(frozen=True)
class Pasted:
    """All rows, and what is doubtful about them together."""

    rows: list[PastedRow]
    doubts: list[Remark]


def read_pasted(
    text: str, runs: Sequence[KnownRun], ranges: Mapping[str, tuple[float, float]], fahrenheit: bool = False
) -> Pasted:
    """Read rows of a spreadsheet for runs in the order of time.

    A first row of headings names the columns (time, charge before, charge after, battery before, battery after,
    outside); without one they are taken in that order, without time. With times a row goes to the run nearest to it,
    else the rows go to the runs in their order. `ranges` are those of the values in SI; `fahrenheit` says what
    temperatures are in where no heading does.
    """
    lines = [(number, _cells(line)) for number, line in enumerate(text.splitlines(), 1) if line.strip()]
    names, fahrenheit, lines = _columns(lines, fahrenheit)
    rows = []
    for place, (number, cells) in enumerate(lines):
        named = dict(zip(names, cells, strict=False))
        row = PastedRow(number, _run_of(named.get("time"), place, runs), {})
        if row.run is None:
            time = named.get("time", "")
            row.wrong.append(Remark("no run near" if time else "no run left", cell=time))
        _fill(row, named, ranges, fahrenheit)
        rows.append(row)
    unknown = [Remark("heading", cell=name) for name in names if name and name not in (*ORDER, "time")]
    doubts = [*unknown, *_counted(rows, runs, "time" in names), *_shifted(rows, runs), *_emptied(rows)]
    for earlier, later in pairwise(rows):
        later.doubts.extend(_recharged(earlier, later))
    return Pasted(rows, doubts)


def _cells(line: str) -> list[str]:
    for mark in ("\t", ";"):
        if mark in line:
            return [cell.strip().replace(",", ".") for cell in line.split(mark)]
    return [cell.strip() for cell in line.split(",")]


def _columns(
    lines: list[tuple[int, list[str]]], fahrenheit: bool
) -> tuple[list[str], bool, list[tuple[int, list[str]]]]:
    """The columns' names, the unit of temperatures, and the lines without that of the headings."""
    if not lines or any(_number(cell) is not None for cell in lines[0][1]):
        return list(ORDER), fahrenheit, lines
    headings = [cell.lower() for cell in lines[0][1]]
    if any("f" in re.findall(r"[°(]\s*([fc])\b", heading) for heading in headings):
        fahrenheit = True
    plain = [" ".join(re.sub(r"[°(,.%].*", "", heading).split()) for heading in headings]
    return [HEADINGS.get(name, name) for name in plain], fahrenheit, lines[1:]


def _fill(
    row: PastedRow, cells: Mapping[str, str], ranges: Mapping[str, tuple[float, float]], fahrenheit: bool
) -> None:
    """The row's values, with what is doubtful or wrong about them."""
    for name in ORDER:
        cell = cells.get(name, "").rstrip("%°FCfc ")
        if not cell or cell in ("-", "–"):
            continue
        value = _number(cell)
        if value is None:
            row.wrong.append(Remark("no number", name, cell))
            continue
        if name in CHARGES and 0 < value <= 1:
            row.doubts.append(Remark("share", name, numbers={"value": value}))
        si = celsius(value) if fahrenheit and name in TEMPS else value
        low, high = ranges[name]
        if not low <= si <= high:
            row.wrong.append(Remark("not possible", name, cell))
        row.values[name] = round(si, 2)


def _run_of(time: str | None, place: int, runs: Sequence[KnownRun]) -> int | None:
    if not time:
        return place if place < len(runs) else None
    found = re.search(r"(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?", time)
    if not found or int(found[1]) > 23:
        return None
    hour, minute, second = (int(part or 0) for part in found.groups())
    apart = [abs(run.start.replace(hour=hour, minute=minute, second=second) - run.start) for run in runs]
    nearest = min(range(len(runs)), key=lambda index: apart[index], default=None)
    return nearest if nearest is not None and apart[nearest] <= NEAR else None


def _counted(rows: list[PastedRow], runs: Sequence[KnownRun], timed: bool) -> list[Remark]:
    taken = [row.run for row in rows if row.run is not None]
    if len(set(taken)) < len(taken):
        return [Remark("two rows for one run")]
    if not timed and len(rows) != len(runs):
        return [Remark("counts differ", numbers={"rows": len(rows), "runs": len(runs)})]
    return []


def _shifted(rows: list[PastedRow], runs: Sequence[KnownRun]) -> list[Remark]:
    """Whether the rows would fit what is known of the runs better if they were moved by one."""
    as_they_stand = _disagreement(rows, runs, 0)
    for step in (-1, 1):
        moved = _disagreement(rows, runs, step)
        if as_they_stand > LEAST_DISAGREEMENT and moved < SHIFT_TELLS * as_they_stand:
            return [Remark("shifted", numbers={"rows_down": step})]
    return []


def _emptied(rows: list[PastedRow]) -> list[Remark]:
    """Columns that are empty below a cell with a value, as cells that were merged are once they are pasted."""
    found = []
    for name in ORDER:
        filled = [name in row.values for row in rows]
        empty = filled[filled.index(True) :].count(False) if any(filled) else 0
        if empty:
            found.append(Remark("empty cells", name, numbers={"rows": empty}))
    return found


def _disagreement(rows: list[PastedRow], runs: Sequence[KnownRun], step: int) -> float:
    """The mean difference between pasted and known values, the rows moved by a number of runs."""
    apart = []
    for row in rows:
        index = None if row.run is None else row.run + step
        if index is None or not 0 <= index < len(runs):
            continue
        known = runs[index].values
        apart += [abs(value - k) for name, value in row.values.items() if (k := known.get(name)) is not None]
    return math.fsum(apart) / len(apart) if apart else 0.0


def _recharged(earlier: PastedRow, later: PastedRow) -> list[Remark]:
    """Whether the charge rises from one run to the next."""
    ended = earlier.values.get(CHARGES[1], earlier.values.get(CHARGES[0]))
    begun = later.values.get(CHARGES[0])
    if ended is None or begun is None or begun <= ended + CHARGE_SLACK:
        return []
    return [Remark("charge rises", numbers={"from_percent": ended, "to_percent": begun})]


def _number(cell: str) -> float | None:
    try:
        value = float(cell.rstrip("%°FCfc "))
    except ValueError:
        return None
    return value if math.isfinite(value) else None
