"""Battery readings that were typed or pasted as a table."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError

from cars.models import BatteryReading, IntervalKind
from config.errors import UnfitError

MOST_READINGS = 2000
READING_COLUMNS = ("minutes", "battery_temp_c", "outside_temp_c", "charge_percent")


class TableError(UnfitError):
    """A table that can't be read; its text names the line."""

    field = "table"


def read_table(text: str, kind: str) -> list[dict[str, float | None]]:
    """Rows of minutes, battery and outside temperature (C) and charge (%), apart by tab, semicolon or comma.

    Raises TableError with the line at fault; a heading is passed over.
    """
    rows: list[dict[str, float | None]] = []
    for line, cells in enumerate(map(_cells, text.strip().splitlines()), start=1):
        if line == 1 and cells and not _is_number(cells[0]):
            continue
        rows.append(_reading(line, cells, rows[-1]["minutes"] if rows else None))
    needed, words = ("charge_percent", "charge") if kind == IntervalKind.CHARGING else ("battery_temp_c", "temperature")
    if sum(row[needed] is not None for row in rows) < 3:
        raise TableError(f"At least three rows with the battery's {words} are needed.")
    if len(rows) > MOST_READINGS:
        raise TableError(f"{len(rows)} rows; at most {MOST_READINGS} are taken.")
    return rows


def _cells(line: str) -> list[str]:
    mark = next((mark for mark in ("\t", ";") if mark in line), ",")
    return [cell.strip() for cell in line.split(mark)]


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


def _reading(line: int, cells: list[str], previous: float | None) -> dict[str, float | None]:
    if len(cells) > len(READING_COLUMNS) or any(cell and not _is_number(cell) for cell in cells):
        raise TableError(f"Line {line}: four numbers at most, empty where not read.")
    row = dict.fromkeys(READING_COLUMNS, None) | {
        name: float(cell) for name, cell in zip(READING_COLUMNS, cells, strict=False) if cell
    }
    for name, value in row.items():
        field: Any = BatteryReading._meta.get_field(name)
        try:
            if value is not None:
                field.run_validators(value)
        except ValidationError as error:
            message = f"Line {line}, {name}: {' '.join(error.messages)}"
            raise TableError(message) from None
    if row["minutes"] is None or (previous is not None and row["minutes"] <= previous):
        raise TableError(f"Line {line}: minutes must rise from row to row.")
    return row
