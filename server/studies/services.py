"""What a study comes to: its runs chosen, its kind's answer, and what has changed since it was saved."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from comparisons.saved import run_changes
from coombe_core import __version__
from coombe_core.studies.laps import StartLine
from coombe_core.timing.measures import parse_measure
from runs.models import Log
from studies.choosing import Asked, Chosen, Picked, Rule, choose
from studies.kinds.dashboard import dashboards
from studies.kinds.energy import energies
from studies.kinds.history import histories
from studies.kinds.in_order import braking, passes
from studies.kinds.laps import drive_of, laps_of, line_of, trace_of
from studies.kinds.levels import modes, tires
from studies.kinds.receivers import receivers
from studies.kinds.roll_ons import roll_ons
from studies.kinds.sweep import charge_sweep, warm_up
from studies.kinds.unlike import with_unlike_series
from studies.models import Study, StudyKind
from studies.showing import Drive, Shown

MADE: Mapping[StudyKind, Callable[[Chosen], Shown]] = {
    StudyKind.SWEEP: charge_sweep,
    StudyKind.WARM_UP: warm_up,
    StudyKind.REPEATABILITY: passes,
    StudyKind.BRAKING: braking,
    StudyKind.TIRES: tires,
    StudyKind.ROLL_ONS: roll_ons,
    StudyKind.MODES: modes,
    StudyKind.ENERGY: energies,
    StudyKind.RECEIVERS: receivers,
    StudyKind.DASHBOARD: dashboards,
    StudyKind.HISTORY: histories,
}
USUAL_MEASURES: Mapping[StudyKind, str] = {
    **dict.fromkeys(MADE, "0-60 mph"),
    StudyKind.BRAKING: "60-0 mph",
    StudyKind.TIRES: "60-0 mph",
    StudyKind.ROLL_ONS: "30-70 mph",
    StudyKind.ENERGY: "1/4 mile",
}


@dataclass(frozen=True)
class Result:
    """A study's answer with its runs; `trouble` is why there is none, and what to do; laps have a `drive`."""

    shown: Shown | None
    runs: list[tuple[int, Picked]]
    trouble: str = ""
    drive: Drive | None = None


def answer(asked: Mapping[str, Any]) -> Result:
    """Make a study as it is asked, saved or not. Raises ValueError where measure and clock do not fit."""
    kind = StudyKind(asked["kind"])
    if kind == StudyKind.LAPS:
        return _laps(asked)
    measure = parse_measure(asked["measure"] or USUAL_MEASURES[kind])
    clock = asked["clock"] if asked["clock"] in measure.clocks else measure.clocks[-1]
    rules = [Rule(**{name: value for name, value in row.items() if name in RULE}) for row in asked["series"]]
    left_out = {row["run"].pk: row["reason"] for row in asked["left_out"]}
    chosen = choose(Asked(kind, measure, clock, rules, left_out))
    runs = [(place, picked) for place, rows in enumerate(chosen.series) for picked in rows]
    if not any(not picked.dropped for _, picked in runs):
        return Result(None, runs, f"No run that was picked has {measure.name}: choose another car, measure or days.")
    try:
        return Result(with_unlike_series(MADE[kind](chosen), chosen), runs)
    except ValueError as error:
        return Result(None, runs, str(error))


RULE = ("name", "car", "setup", "from_day", "to_day", "drive_mode", "receiver", "direction")


def _laps(asked: Mapping[str, Any]) -> Result:
    log: Log | None = asked["log"]
    if log is None:
        return Result(None, [], "Choose the log of a drive with laps.")
    places = [asked[name] for name in ("start_latitude_deg", "start_longitude_deg", "start_heading_deg")]
    asked_for = None if None in places else StartLine(*places)
    try:
        trace = trace_of(log)
    except ValueError as error:
        return Result(None, [], str(error))
    line = line_of(trace, asked_for)
    drive = drive_of(trace, line)
    try:
        return Result(laps_of(trace, line, log.name), [], drive=drive)
    except ValueError as error:
        return Result(None, [], str(error), drive)


def question_of(study: Study) -> dict[str, Any]:
    """A saved study as it was asked."""
    fields = ("kind", "measure", "clock", "log", "start_latitude_deg", "start_longitude_deg", "start_heading_deg")
    series = study.series.select_related("car", "setup__car")
    return {name: getattr(study, name) for name in fields} | {
        "series": [{name: getattr(row, name) for name in RULE} for row in series],
        "left_out": [{"run": row.run, "reason": row.reason} for row in study.left_out.select_related("run")],
    }


def kept_of(result: Result) -> dict[str, Any]:
    """What to keep of a result."""
    return {
        "core_version": __version__,
        "saved_at": timezone.now().isoformat(),
        "sentences": list(result.shown.sentences) if result.shown else [result.trouble],
        "runs": {
            str(picked.run.pk): picked.value and picked.value.value for _, picked in result.runs if not picked.dropped
        },
    }


def keep(study: Study) -> None:
    """Keep what a saved study finds now."""
    study.kept = kept_of(answer(question_of(study)))
    study.save(update_fields=["kept"])


def changes(kept: Mapping[str, Any] | None, result: Result) -> list[str]:
    """What is different from when it was saved, in sentences; nothing where nothing is."""
    if not kept:
        return []
    now = kept_of(result)
    found = []
    if kept["core_version"] != now["core_version"]:
        found.append(f"Saved with core {kept['core_version']}, computed with {now['core_version']}.")
    found += run_changes(kept["runs"], now["runs"])
    if kept["sentences"] != now["sentences"] and kept["sentences"]:
        found.append(f"It said: {kept['sentences'][0]}")
    return found
