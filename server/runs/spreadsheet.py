"""Runs with their measures as one spreadsheet (Office Open XML), for whoever counts on there."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from typing import Any

from django.db.models import QuerySet
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font

from config.errors import TellableError
from coombe_core.timing.results import QUANTITIES
from runs.conditions import CONDITION_FIELDS
from runs.models import Measured, Run, u95_name

MOST_RUNS = 5000
RUN_COLUMNS = ("run", "car", "setup", "kind", "start_utc", "start_local", "validity", "void_reason", "log")
CONDITIONS = tuple(name for name in CONDITION_FIELDS if name != "course")
MEASURE_COLUMNS = ("run", "name", "clock", *(column for name in QUANTITIES for column in (name, u95_name(name))))


class TooManyRunsError(TellableError):
    """More runs than one spreadsheet takes."""

    status_code, code = 409, "too_many_runs"


def workbook_of(asked: QuerySet[Run]) -> bytes:
    """Two sheets: a row a run, and a row a measure on its clock. SI units, named in the headings."""
    if (count := asked.count()) > MOST_RUNS:
        raise TooManyRunsError(f"A spreadsheet takes {MOST_RUNS} runs, and these are {count}. Filter them first.")
    runs = list(asked)
    book = Workbook(write_only=True)
    measured = Measured.objects.filter(run__in=[run.pk for run in runs]).order_by("run", "id")
    rows = measured.values_list("run_id", *MEASURE_COLUMNS[1:])
    _sheet(book, "Runs", (*RUN_COLUMNS, "course", *CONDITIONS), map(_run, runs))
    _sheet(book, "Measures", MEASURE_COLUMNS, rows)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _run(run: Run) -> Iterable[Any]:
    car, setup = run.setup.car.name, run.setup.name
    start = run.start_utc.replace(tzinfo=None), run.start_local.replace(tzinfo=None)
    first = (run.pk, car, setup, run.kind, *start, run.validity, run.void_reason, run.log.name)
    return (*first, run.course.name if run.course else None, *(getattr(run, name) for name in CONDITIONS))


def _sheet(book: Workbook, title: str, columns: Sequence[str], rows: Iterable[Iterable[Any]]) -> None:
    sheet = book.create_sheet(title)
    sheet.freeze_panes = "B2"
    heads = [WriteOnlyCell(sheet, column) for column in columns]
    for head in heads:
        head.font = Font(bold=True)
    sheet.append(heads)
    for row in rows:
        sheet.append([_cell(sheet, value) for value in row])


def _cell(sheet: Any, value: Any) -> Any:
    """A value as it is; words stay words, whatever they begin with, and are never calculated."""
    if not isinstance(value, str):
        return value
    cell = WriteOnlyCell(sheet, value)
    cell.data_type = "s"
    cell.quotePrefix = True
    return cell
