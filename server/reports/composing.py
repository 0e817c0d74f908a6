"""A whole report as it would be published now: its parts, and what they rest on, field by field and run by run."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import Count

from cars.models import Setup
from comparisons.packaging import MOST_RUNS
from config.fields import shown_local
from coombe_core import __version__
from coombe_core.wording.quantities import counted
from reports.models import Report
from reports.parts import Part, PartError, made
from reports.units import NONE, Unit, unit_of
from runs.models import Log, Run

SETUP_ROWS: Mapping[str, tuple[str, str]] = {  # label, and the kind of quantity of a number
    "since": ("since", ""),
    "change": ("what changed", ""),
    "change_note": ("in words", ""),
    "confirmed_by": ("seen to be active by", ""),
    "software_version": ("software", ""),
    "tire_season": ("tires", ""),
    "tire_size": ("tire size", ""),
    "tire_pressure_kpa": ("tire pressure, cold", "pressure"),
    "tire_distance_km": ("tires driven", "odometer"),
    "wheel_diameter_in": ("wheels, in", "plain"),
    "wheel_mass_kg": ("wheel with tire", "mass"),
    "test_mass_kg": ("test mass", "mass"),
    "modifications": ("modifications", ""),
}
Content = Mapping[str, Any]
AIR_ROWS = (
    ("outside_temp_c", "outside", "temperature"),
    ("pressure_hpa", "pressure", "air"),
    ("humidity_percent", "humidity", "percent"),
    ("wind_mps", "wind", "speed"),
    ("battery_temp_before_c", "battery before", "temperature"),
    ("charge_before_percent", "charge before", "percent"),
)


@dataclass(frozen=True)
class Composed:
    """What a version says, as JSON, and the parts with their pictures."""

    content: dict[str, Any]
    parts: Sequence[Part]


def composed(report: Report) -> Composed:
    """Put a report together from what is stored now.

    Raises PartError with a sentence where a part is gone, or the whole is too large.
    """
    if not report.parts:
        raise PartError("The report is empty. Add a comparison, a study, a slip or a text.")
    parts = [made(asked, report.units) for asked in report.parts]
    numbers = frozenset[int]().union(*(part.runs for part in parts))
    if len(numbers) > MOST_RUNS:
        raise PartError(f"A report shows at most {MOST_RUNS} runs, and this one has {len(numbers)}. Take a part out.")
    runs = list(
        Run.objects.filter(pk__in=numbers).select_related("setup__car", "course", "log").order_by("start_utc", "pk")
    )
    content = {
        "title": report.title,
        "question": report.question,
        "units": report.units,
        "paper": report.paper,
        "license": report.license,
        "core_version": __version__,
        "parts": [part.content for part in parts],
        "setups": _setups(runs, report.units),
        "courses": _courses(runs, report.units),
        "days": _days(runs, report.units),
        "others": _others(runs, numbers),
        "logs": _logs(runs),
        "runs": {str(run.pk): run.validity for run in runs},
    }
    return Composed(content, parts)


def _setups(runs: Sequence[Run], units: str) -> dict[str, Any]:
    """Every setup beside the others, field by field; what nobody filled in for any is left out."""
    setups = list({run.setup_id: run.setup for run in runs}.values())
    rows = []
    for name, (label, kind) in SETUP_ROWS.items():
        cells = [_cell(setup, name, unit_of(kind, units) if kind else None) for setup in setups]
        if any(cell != NONE for cell in cells):
            rows.append({"label": _labelled(label, kind, units), "cells": cells, "differs": len(set(cells)) > 1})
    return {"names": [f"{setup.car.name}: {setup.name}" for setup in setups], "rows": rows}


def _labelled(label: str, kind: str, units: str) -> str:
    name = unit_of(kind, units).name if kind else ""
    return f"{label}, {name}" if name else label


def _cell(setup: Setup, name: str, unit: Unit | None) -> str:
    value = getattr(setup, name)
    if name == "test_mass_kg" and value is None:
        value = setup.car.test_mass_kg
    if value in (None, ""):
        return NONE
    return unit.text(float(value)) if unit else str(value)


def _courses(runs: Sequence[Run], units: str) -> list[dict[str, str]]:
    distance = unit_of("distance", units)
    found = []
    for course in {run.course_id: run.course for run in runs if run.course}.values():
        slope = (
            "slope never surveyed"
            if course.slope_percent is None
            else f"slope {course.slope_percent:+.2f} %".replace("-", "−")
        )
        length = f", {distance.text(course.length_m)} {distance.name} long" if course.length_m else ""
        found.append({"name": course.name, "text": f"{slope}{length}, heading {course.heading_deg:.0f}°"})
    return found


def _days(runs: Sequence[Run], units: str) -> list[dict[str, Any]]:
    """What was noted of each day: from the least to the most."""
    by_day: dict[str, list[Run]] = defaultdict(list)
    for run in runs:
        by_day[f"{run.start_local:%Y-%m-%d}"].append(run)
    rows = []
    for day, driven in sorted(by_day.items()):
        noted = [[label, _range(driven, name, unit_of(kind, units))] for name, label, kind in AIR_ROWS]
        rows.append({"day": day, "runs": len(driven), "noted": [each for each in noted if each[1]]})
    return rows


def _range(runs: Sequence[Run], name: str, unit: Unit) -> str:
    values = [value for run in runs if (value := getattr(run, name)) is not None]
    if not values:
        return ""
    low, high = unit.text(min(values)), unit.text(max(values))
    span = low if low == high else f"{low} to {high}"
    missing = f", {counted(len(runs) - len(values), 'run')} without" if len(values) < len(runs) else ""
    return f"{span} {unit.name}{missing}"


def _others(runs: Sequence[Run], numbers: frozenset[int]) -> list[dict[str, str]]:
    """What else was driven with these setups on these days, and why it is in no part."""
    logs, setups = {run.log_id for run in runs}, {run.setup_id for run in runs}
    beside = Run.objects.filter(log__in=logs, setup__in=setups).exclude(pk__in=numbers)
    return [
        {
            "start": shown_local(run.start_local),
            "setup": str(run.setup),
            "kind": run.get_kind_display(),
            "why": f"void: {run.void_reason}" if run.validity == "void" else "not asked for here",
        }
        for run in beside.select_related("setup__car", "course").order_by("start_utc", "pk")[:MOST_RUNS]
    ]


def _logs(runs: Sequence[Run]) -> list[dict[str, Any]]:
    numbers = {run.log_id for run in runs}
    logs = Log.objects.filter(pk__in=numbers).annotate(made=Count("runs")).order_by("name", "pk")
    return [{"name": log.name, "sha256": log.sha256 or "not kept", "runs": log.made} for log in logs]


def changes_between(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """What a version says otherwise than the one before, in sentences; nothing where nothing is."""
    found = []
    if before["core_version"] != after["core_version"]:
        found.append(f"Computed with core {after['core_version']}, before with {before['core_version']}.")
    if (before["title"], before["question"]) != (after["title"], after["question"]):
        found.append("Title or question were worded anew.")
    was, now = before["runs"], after["runs"]
    voided = sum(now[run] != was[run] == "valid" for run in was if run in now)
    taken = [f"{counted(voided, 'run')} became void." if voided else ""]
    taken.append(f"{counted(len(set(now) - set(was)), 'run')} came." if set(now) - set(was) else "")
    taken.append(f"{counted(len(set(was) - set(now)), 'run')} went." if set(was) - set(now) else "")
    found += [sentence for sentence in taken if sentence]
    if after["units"] != before["units"]:
        found.append("It is written in other units.")
    if (before["paper"], before["license"]) != (after["paper"], after["license"]):
        found.append("Its paper or the license of its data is another.")
    found += _parts_changed(before["parts"], after["parts"], after["units"] == before["units"])
    if not found and before != after:
        found.append("What is noted of setups, courses, conditions or other runs is different.")
    return found


def _parts_changed(before: Sequence[Content], after: Sequence[Content], same_units: bool) -> list[str]:
    """Parts that came, went, moved, or say something else."""
    found = []
    titled = {_name(part): part for part in before if part["kind"] != "text"}
    for part in after:
        if part["kind"] == "text":
            continue
        old, name = titled.pop(_name(part), None), part["title"]
        if old is None:
            found.append(f"New: {name}.")
        elif same_units and _says(old) != _says(part):
            found.append(f"{name} said: {_says(old)} It says: {_says(part)}")
        elif same_units and old != part:
            found.append(f"{name} says the same of other runs or conditions.")
    found += [f"Taken out: {title}." for _, title in titled]
    texts = [[part for part in parts if part["kind"] == "text"] for parts in (before, after)]
    if texts[0] != texts[1]:
        found.append("Its texts were worded anew.")
    if not found and [_name(part) for part in before] != [_name(part) for part in after]:
        found.append("Its parts stand in another order.")
    return found


def _name(part: Content) -> tuple[str, str]:
    return part["kind"], part.get("title", "")


def _says(part: Content) -> str:
    """The one sentence that a part comes to."""
    match part["kind"]:
        case "comparison":
            return " ".join(pair["sentence"] for pair in part["pairs"])
        case "study":
            return str(part["sentences"][0])
        case "slip":
            return "; ".join(" ".join(line) for line in part["lines"]) + "."
        case _:
            return f"{sum(len(table['rows']) for table in part['tables'])} rows."
