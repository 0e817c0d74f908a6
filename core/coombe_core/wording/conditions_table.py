"""What is doubtful or wrong about pasted conditions."""

from __future__ import annotations

from coombe_core.formats.conditions_table import Code, Remark
from coombe_core.wording.quantities import counted

SENTENCES: dict[Code, str] = {
    "no run near": "no run within 2 min of {cell}",
    "no run left": "there is no run left for this row",
    "no number": "{column} is not a number: {short!r}",
    "not possible": "{column} {cell} is not possible",
    "share": "{column} {value:g} looks like a fraction: did you mean {percent:g} %?",
    "heading": "The column {short!r} is left out: no condition has that name.",
    "empty cells": "{Column} is empty in {empty}: were cells merged in the spreadsheet?",
    "two rows for one run": "Two rows belong to the same run.",
    "counts differ": "{rows:.0f} rows for {runs:.0f} runs; without a time column they are assigned in order.",
    "shifted": "The rows fit the runs better if moved {way} by one: is a row missing or duplicated?",
    "charge rises": (
        "the charge rises from {from_percent:g} to {to_percent:g} %: charged in between, or a shifted row?"
    ),
}


def remark(found: Remark) -> str:
    """Say what is doubtful or wrong, and ask what it may be."""
    numbers = found.numbers
    column = found.column.rsplit("_", 1)[0].replace("_temp", "").replace("_", " ")
    return SENTENCES[found.code].format(
        **numbers,
        column=column,
        Column=column.capitalize(),
        empty=counted(round(numbers.get("rows", 0)), "row"),
        cell=found.cell,
        short=found.cell[:20],
        percent=100 * numbers.get("value", 0.0),
        way="down" if numbers.get("rows_down", 0) > 0 else "up",
    )
