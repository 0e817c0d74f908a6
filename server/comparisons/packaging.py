"""Saved comparisons as a data package: their runs with the bytes of their logs, for somebody else to work out again."""

from __future__ import annotations

import io
import json
from collections.abc import Iterable, Sequence
from pathlib import PurePosixPath
from typing import Any

from django.utils import timezone

from comparisons.gathering import Gathered, barred, gather
from comparisons.models import Comparison
from comparisons.saved import ask
from comparisons.services import compare_pairs
from coombe_core import __version__
from coombe_core.packages.inputs import inputs_of
from coombe_core.packages.package import About, Package
from coombe_core.packages.tables import TABLES
from coombe_core.packages.writing import write_package
from coombe_core.timing.results import QUANTITIES
from coombe_core.wording.comparison import sentence_of
from coombe_core.wording.package import readme
from courses.models import Station
from runs import store
from runs.layouts import remembered
from runs.models import Log, Measured, Run, RunTrace, smoothing_of
from runs.models.measured import u95_name

MOST_RUNS = 2000  # more would not fit into a file that somebody downloads


def package_of(title: str, comparisons: Sequence[Comparison], made_by: str, license: str = "") -> bytes:  # noqa: A002 - the standard's own word
    """The bytes of a package of some comparisons.

    Raises ValueError with a sentence where one no longer fits, or all are too large.
    """
    asked = [(comparison, gather(ask(comparison))) for comparison in comparisons]
    numbers = {row.run.pk for _, gathered in asked for rows in gathered.stored for row in rows}
    if len(numbers) > MOST_RUNS:
        raise ValueError(f"a package holds at most {MOST_RUNS} runs, and this has {len(numbers)}")
    runs = list(Run.objects.filter(pk__in=numbers).select_related("setup__car", "course", "log").order_by("pk"))
    logs = list({run.log_id: run.log for run in runs}.values())
    files, kept = _files(logs, runs)
    pairs = [(comparison, gathered, compare_pairs(gathered)) for comparison, gathered in asked]
    tables: dict[str, list[dict[str, Any]]] = {
        "logs": kept,
        "courses": [_course(run) for run in _each(runs, "course_id")],
        "stations": _stations(runs),
        "setups": [_setup(run) for run in _each(runs, "setup_id")],
        "runs": [_run(run) for run in runs],
        "conditions": [_fields(run, "conditions", run=run.pk) for run in runs],
        "measures": _measures(runs),
        "members": [row for comparison, gathered in asked for row in _members(comparison, gathered)],
        "verdict": [
            _verdict(comparison, gathered, place, pair)
            for comparison, gathered, found in pairs
            for place, pair in enumerate(found, start=1)
        ],
    }
    made = f"{timezone.now():%Y-%m-%dT%H:%M:%SZ}"
    about = About(title, __version__, made, made_by, license)
    package = Package(about, tables, files, [inputs_of(pair) for _, _, found in pairs for pair in found])
    out = io.BytesIO()
    write_package(out, package, readme(package))
    return out.getvalue()


def _files(logs: Sequence[Log], runs: Sequence[Run]) -> tuple[dict[str, bytes], list[dict[str, Any]]]:
    """The bytes of logs, their CAN logs and the traces of runs, by path; and the rows of the table of logs."""
    files: dict[str, bytes] = {}
    rows = []
    for log in logs:
        file, can_file, layout = "", "", None
        if log.sha256 and store.holds(log.sha256):
            file = f"logs/{log.sha256}{_suffix(log.name)}"
            files[file] = store.read(log.sha256)
            layout = remembered(files[file])
        can_log = getattr(log, "can_log", None)
        if can_log and store.holds(can_log.sha256):
            can_file = f"logs/{can_log.sha256}{_suffix(can_log.name)}"
            files[can_file] = store.read(can_log.sha256)
        rows.append(
            {"sha256": log.sha256 or f"log {log.pk}", "name": log.name, "format": log.format, "file": file}
            | {"layout": json.dumps(layout) if layout else "", "can_file": can_file}
        )
    for trace in RunTrace.objects.filter(run__in=runs).order_by("run"):
        files[f"traces/{trace.run_id}-fixes.parquet"] = bytes(trace.fixes)
        files[f"traces/{trace.run_id}-curve.parquet"] = bytes(trace.curve)
    return {path: data for path, data in files.items() if data}, rows


def _suffix(name: str) -> str:
    suffix = PurePosixPath(name).suffix.lower()
    return suffix if suffix[1:].isalnum() else ""


def _each(runs: Iterable[Run], name: str) -> list[Run]:
    """One run of each setup, or of each course."""
    return list({getattr(run, name): run for run in runs if getattr(run, name)}.values())


def _fields(thing: Any, table: str, **first: Any) -> dict[str, Any]:
    """The columns of a table that are fields of a row of the database by the same name."""
    names = [column.name for column in TABLES[table] if column.name not in first]
    return first | {name: getattr(thing, name) for name in names if hasattr(thing, name)}


def _course(run: Run) -> dict[str, Any]:
    return _fields(run.course, "courses", course=run.course_id)


def _stations(runs: Iterable[Run]) -> list[dict[str, Any]]:
    rows = Station.objects.filter(course__in={run.course_id for run in runs if run.course_id})
    return [{"course": row.course_id, "distance_m": row.distance_m, "elevation_m": row.elevation_m} for row in rows]


def _setup(run: Run) -> dict[str, Any]:
    setup = run.setup
    tires = f"{setup.tire_season} {setup.tire_size}".strip()
    known = {"setup": setup.pk, "car": setup.car.name, "since": f"{setup.since}", "tires": tires}
    return _fields(setup, "setups", **known, test_mass_kg=setup.car.test_mass_kg)


def _run(run: Run) -> dict[str, Any]:
    smoothing = smoothing_of(run.receiver)
    known = {
        "run": run.pk,
        "log": run.log.sha256 or f"log {run.log_id}",
        "setup": run.setup_id,
        "course": run.course_id,
        "start_utc": f"{run.start_utc:%Y-%m-%dT%H:%M:%SZ}",
        "smoothing_s": smoothing and smoothing.value,
        "smoothing_u95_s": smoothing and smoothing.u95,
    }
    return _fields(run, "runs", **known)


def _measures(runs: Sequence[Run]) -> list[dict[str, Any]]:
    return [
        {"run": row.run_id, "name": row.name, "clock": row.clock, "quantity": quantity, "value": value}
        | {"u95": getattr(row, u95_name(quantity))}
        for row in Measured.objects.filter(run__in=runs).order_by("run", "id")
        for quantity in QUANTITIES
        if (value := getattr(row, quantity)) is not None
    ]


def _members(comparison: Comparison, gathered: Gathered) -> list[dict[str, Any]]:
    question = gathered.question
    rows = []
    for asked, stored in zip(question.groups, gathered.stored, strict=True):
        for row in stored:
            value = row.value(question.measure, question.clock, gathered.field)
            dropped = barred(row, question.measure, question.clock)
            taken = {"value": value and value.value, "dropped": dropped}
            rows.append({"run": row.run.pk, "comparison": comparison.pk, "group": asked.name} | taken)
    return rows


def _verdict(comparison: Comparison, gathered: Gathered, place: int, pair: Any) -> dict[str, Any]:
    found = pair.difference
    return {
        "comparison": comparison.pk,
        "title": comparison.title,
        "group": gathered.question.groups[place].name,
        "measure": comparison.measure,
        "clock": comparison.clock,
        "quantity": comparison.quantity,
        "verdict": pair.verdict,
        "difference": found and found.value,
        "low95": found and found.low95,
        "high95": found and found.high95,
        "unit": pair.unit,
        "sentence": sentence_of(pair),
    }
