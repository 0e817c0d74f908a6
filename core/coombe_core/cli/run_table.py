"""A run table: a CSV with a row a log, which group it belongs to and what was noted of its runs."""

from __future__ import annotations

import csv
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path

from coombe_core.comparing.state import State
from coombe_core.physics.air import air_density_kg_m3

LOG = "log"
NUMBERS: dict[str, tuple[float, float]] = {
    "order": (0.0, 1e6),
    "charge_before_percent": (0.0, 100.0),
    "charge_after_percent": (0.0, 100.0),
    "battery_temp_before_c": (-40.0, 90.0),
    "outside_temp_c": (-50.0, 60.0),
    "pressure_hpa": (500.0, 1100.0),
    "humidity_percent": (0.0, 100.0),
    "wind_mps": (0.0, 60.0),
    "wind_from_deg": (0.0, 360.0),
    "slope_percent": (-20.0, 20.0),
    "mass_kg": (300.0, 10_000.0),
}
WORDS = ("group", "date", "direction", "tires", "mode", "receiver")
DIRECTIONS = ("out", "back", "")


class RunTableError(ValueError):
    """A table that can't be used; its text names the file and the line."""


@dataclass(frozen=True)
class Row:
    """One row: its line, its log, and what it says beside that; what is empty is left out."""

    line: int
    log: Path
    numbers: dict[str, float]
    words: dict[str, str]

    @property
    def group(self) -> str:
        """The group's name."""
        return self.words.get("group", "")

    def state(self, of_log: State, heading_deg: float | None) -> State:
        """What the log alone tells of a run, with what the row says instead.

        Parameters
        ----------
        of_log : State
        heading_deg : float or None
            Of the run, for the wind along it.
        """
        temp_c, pressure_hpa = self.numbers.get("outside_temp_c"), self.numbers.get("pressure_hpa")
        humidity = self.numbers.get("humidity_percent", 0.0)
        density = air_density_kg_m3(pressure_hpa, temp_c, humidity) if pressure_hpa and temp_c is not None else None
        noted: dict[str, float | str | None] = {
            "charge_percent": self.numbers.get("charge_before_percent"),
            "battery_temp_c": self.numbers.get("battery_temp_before_c"),
            "outside_temp_c": temp_c,
            "density_kg_m3": density,
            "head_wind_mps": self._head_wind_mps(heading_deg),
            "slope_percent": self.numbers.get("slope_percent"),
            "load_kg": self.numbers.get("mass_kg"),
            "hour": self.numbers.get("order"),
            "day": self.words.get("date"),
            "direction": self.words.get("direction"),
            "drive_mode": self.words.get("mode"),
            "tires": self.words.get("tires"),
            "receiver": self.words.get("receiver"),
        }
        return replace(of_log, **{name: value for name, value in noted.items() if value is not None})  # type: ignore[arg-type]

    def _head_wind_mps(self, heading_deg: float | None) -> float | None:
        wind_mps, from_deg = self.numbers.get("wind_mps"), self.numbers.get("wind_from_deg")
        if wind_mps is None or from_deg is None or heading_deg is None:
            return 0.0 if wind_mps == 0.0 else None
        return wind_mps * math.cos(math.radians(from_deg - heading_deg))


def read_run_table(path: Path) -> list[Row]:
    """Read a run table.

    Parameters
    ----------
    path : Path
        Paths of logs in it are relative to its folder.

    Returns
    -------
    list of Row

    Raises
    ------
    RunTableError
        For a heading that is not known, a value that is none or out of range, and a row without a log.
    """
    try:
        with path.open(newline="", encoding="utf-8-sig") as table:
            rows = list(_rows(path, csv.reader(table)))
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise RunTableError(f"{path}: {getattr(error, 'strerror', None) or error}") from None
    if not rows:
        raise RunTableError(f"{path}: no row names a log")
    ordered = [row for row in rows if "order" in row.numbers]
    if ordered and len(ordered) < len(rows):
        missing = next(row.line for row in rows if "order" not in row.numbers)
        raise RunTableError(f"{path}, line {missing}: no order; give it for every row or for none")
    return rows


def _rows(path: Path, lines: Iterator[list[str]]) -> Iterator[Row]:
    headings = [heading.strip() for heading in next(lines, [])]
    known = (LOG, *WORDS, *NUMBERS)
    for heading in headings:
        if heading not in known:
            raise RunTableError(f"{path}, line 1: no heading {heading!r}; there are {', '.join(known)}")
    if LOG not in headings or len(set(headings)) < len(headings):
        raise RunTableError(f"{path}, line 1: one heading must be {LOG!r}, and none may be there twice")
    for line, cells in enumerate(lines, 2):
        if not any(cell.strip() for cell in cells):
            continue
        if len(cells) > len(headings):
            raise RunTableError(f"{path}, line {line}: {len(cells)} cells under {len(headings)} headings")
        yield _row(path, line, dict(zip(headings, (cell.strip() for cell in cells), strict=False)))


def _row(path: Path, line: int, cells: dict[str, str]) -> Row:
    filled = {heading: cell for heading, cell in cells.items() if cell}
    if LOG not in filled:
        raise RunTableError(f"{path}, line {line}: no log")
    numbers = {name: _number(path, line, name, cell) for name, cell in filled.items() if name in NUMBERS}
    words = {name: cell for name, cell in filled.items() if name in WORDS}
    if words.get("direction", "") not in DIRECTIONS:
        raise RunTableError(f"{path}, line {line}: direction {words['direction']!r} is neither out nor back")
    try:
        date.fromisoformat(words.get("date", "2000-01-01"))
    except ValueError:
        raise RunTableError(f"{path}, line {line}: date {words['date']!r}; write it like 2026-05-09") from None
    return Row(line, path.parent / filled[LOG], numbers, words)


def _number(path: Path, line: int, name: str, cell: str) -> float:
    low, high = NUMBERS[name]
    try:
        value = float(cell)
    except ValueError:
        raise RunTableError(f"{path}, line {line}: {name} {cell!r} is no number") from None
    if not low <= value <= high:
        raise RunTableError(f"{path}, line {line}: {name} {cell} is not between {low:g} and {high:g}")
    return value


def before_and_after(path: Path, rows: Sequence[Row]) -> tuple[list[Row], list[Row]]:
    """The rows of the groups `before` and `after`, or else of the first two names in the table.

    Raises RunTableError where there are no two groups.
    """
    nameless = next((row.line for row in rows if not row.group), None)
    if nameless:
        raise RunTableError(f"{path}, line {nameless}: no group")
    names = list(dict.fromkeys(row.group for row in rows))
    pair = ["before", "after"] if {"before", "after"} <= set(names) else names[:2]
    if len(pair) < 2:
        raise RunTableError(f"{path}: two groups are needed; name them in the column group")
    first, second = ([row for row in rows if row.group == name] for name in pair)
    return first, second
