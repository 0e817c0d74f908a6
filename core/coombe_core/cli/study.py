"""`coombe study`: a study of the logs of a run table, as JSON (schema coombe.study/1) and as sentences."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Mapping, Sequence
from itertools import combinations
from typing import Literal

import numpy as np

from coombe_core import __version__
from coombe_core.cli.logged import LogRun, runs_of, states_of
from coombe_core.cli.run_table import RunTableError, read_run_table
from coombe_core.comparing.comparison import Group, Quantity
from coombe_core.comparing.groups import shared_quantity, value_of
from coombe_core.comparing.state import State
from coombe_core.studies.braking import braking_series
from coombe_core.studies.levels import levels
from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import agreement
from coombe_core.studies.repeatability import repeatability
from coombe_core.studies.roll_ons import from_full_power
from coombe_core.studies.sweep import sweep
from coombe_core.uncertainty import Value
from coombe_core.wording.studies import (
    braking_sentence,
    levels_sentence,
    problem,
    receivers_sentence,
    repeatability_sentence,
    roll_ons_sentence,
    sweep_sentence,
)

Json = dict[str, object]
Kind = Literal["sweep", "braking", "roll-ons", "repeatability", "receivers", "levels"]
USUAL_MEASURES: Mapping[Kind, str] = {
    "sweep": "0-60 mph",
    "braking": "100-0 km/h",
    "roll-ons": "30-70 mph",
    "repeatability": "0-60 mph",
    "receivers": "0-60 mph",
    "levels": "0-60 mph",
}
CALLED: Mapping[Kind, str] = {
    "sweep": "sweep",
    "braking": "braking series",
    "roll-ons": "roll-on set",
    "repeatability": "study of repeatability",
    "receivers": "study of receivers",
    "levels": "study of levels",
}
CURVE_EVERY = 10
ONE_PASS_S = 3.0  # two receivers see the beginning of one pass no further apart


class Studied:
    """The runs of a table that have a measure, with their states and values, group by group in the order of driving."""

    def __init__(self, options: argparse.Namespace) -> None:
        rows = read_run_table(options.runs)
        self.measure, self.clock = options.measure, options.clock or options.measure.clocks[-1]
        runs = runs_of(rows, self.measure)
        (states,) = states_of(runs)
        self.quantity: Quantity = "distance" if self.measure.basis == "stop" else "time"
        self.unit = "m" if self.quantity == "distance" else "s"
        field = shared_quantity(self.quantity, [run.timed for run in runs], self.measure, self.clock)
        self.groups: dict[str, list[tuple[LogRun, State, Value]]] = {row.group: [] for row in rows}
        for run, state in zip(runs, states, strict=True):
            if value := value_of(run.timed, self.measure, self.clock, field):
                self.groups[run.row.group].append((run, state, value))
        for found in self.groups.values():
            found.sort(key=lambda each: (each[1].day, each[1].hour or 0.0))
        lacking = next((name for name, found in self.groups.items() if not found), None)
        if lacking is not None:
            where = f"of group {lacking!r} " if lacking else ""
            raise RunTableError(f"{options.runs}: no run {where}has {self.measure.name}")


def study_json(kind: Kind, options: argparse.Namespace) -> Json:
    """What `coombe study --json` prints.

    Raises ReadError, RunTableError, NoSuchQuantityError with a sentence, also for what a study can't be made of.
    """
    studied = Studied(options)
    try:
        groups = MADE[kind](studied)
    except StudyError as error:
        raise RunTableError(f"{options.runs}: {problem(error, CALLED[kind])}") from None
    telling = [group for group in groups if group["sentence"]]
    named = [f"{group['name']}: {group['sentence']}" if len(telling) > 1 else group["sentence"] for group in telling]
    return {
        "schema": "coombe.study/1",
        "core_version": __version__,
        "kind": kind,
        "measure": studied.measure.name,
        "clock": studied.clock,
        "unit": studied.unit,
        "sentence": " ".join(map(str, named)),
        "groups": groups,
    }


def _sweeps(studied: Studied) -> list[Json]:
    return [_sweep(name, found) for name, found in studied.groups.items()]


def _sweep(name: str, runs: Sequence[tuple[LogRun, State, Value]]) -> Json:
    charges = [state.charge_percent for _, state, _ in runs]
    known = [charge for charge in charges if charge is not None]
    if len(known) < len(charges):
        raise StudyError("missing", {"missing": len(charges) - len(known), "runs": len(charges)})
    found = sweep(known, [value.value for _, _, value in runs])
    order = np.argsort(-np.array(known), kind="stable")
    rows = zip(order, found.at, found.values, found.normalized, strict=True)
    step = found.step
    return {
        "name": name,
        "points": [
            {"charge_percent": at, "value": value, "u95": runs[place][2].u95, "normalized": normalized}
            for place, at, value, normalized in rows
        ],
        "curve": [
            {"charge_percent": at, "value": value, "u95": u95}
            for at, value, u95 in zip(
                found.curve.at[::10], found.curve.values[::10], found.curve.u95()[::10], strict=True
            )
        ],
        "flatness": {
            "slope_per_10": _value(found.slope_per_10),
            "lowest_to_highest": _value(found.lowest_to_highest),
            "lost_at_percent": {f"{share:g}": at for share, at in found.lost.items()},
        },
        "step": step
        and {
            "at_percent": {"value": step.at, "u95": max(step.high - step.at, step.at - step.low)},
            "size": _value(step.size),
            "p_value": step.p_value,
        },
        "sentence": sweep_sentence(found),
    }


def _braking(studied: Studied) -> list[Json]:
    made: list[Json] = []
    for name, runs in studied.groups.items():
        days = dict.fromkeys(state.day for _, state, _ in runs)
        found = braking_series([[value.value for _, state, value in runs if state.day == day] for day in days])
        made.append(
            {
                "name": name,
                "stops": [{"number": n, "distance_m": _value(value)} for n, (_, _, value) in enumerate(runs, 1)],
                "best_m": found.best_m,
                "mean_m": found.mean_m,
                "fade_per_stop_m": found.fade_per_stop_m and _value(found.fade_per_stop_m),
                "verdict": found.verdict,
                "sentence": braking_sentence(found),
            }
        )
    return made


def _repeatability(studied: Studied) -> list[Json]:
    made: list[Json] = []
    for name, runs in studied.groups.items():
        found = repeatability([value.value for _, _, value in runs])
        made.append(
            {
                "name": name,
                "passes": [{"number": n, "value": _value(value)} for n, (_, _, value) in enumerate(runs, 1)],
                "per_pass": _value(found.per_pass),
                "scatter": found.scatter,
                "first_quickest_p": found.first_quickest_p,
                "sentence": repeatability_sentence(found, studied.unit),
            }
        )
    return made


def _receivers(studied: Studied) -> list[Json]:
    """Every two groups, or receivers of one group, whose runs are of the same passes."""
    by_receiver: dict[str, list[tuple[LogRun, State, Value]]] = {}
    for name, runs in studied.groups.items():
        for run in runs:
            by_receiver.setdefault(run[1].receiver or name, []).append(run)
    made: list[Json] = []
    for (first, one), (second, other) in combinations(by_receiver.items(), 2):
        pairs = [(a[2].value, b[2].value) for a in one for b in other if _one_pass(a[0], b[0])]
        found = agreement([a for a, _ in pairs], [b for _, b in pairs])
        made.append(
            {
                "name": f"{first}, {second}",
                "passes": found.passes,
                "bias": _value(found.bias),
                "sd": found.sd,
                "lower": _value(found.lower),
                "upper": _value(found.upper),
                "sentence": receivers_sentence(found, studied.unit),
            }
        )
    if not made:
        raise StudyError("too few", {"runs": 0, "least": 3})
    return made


def _one_pass(one: LogRun, other: LogRun) -> bool:
    return abs((one.at - other.at).total_seconds()) < ONE_PASS_S


def _roll_ons(studied: Studied) -> list[Json]:
    made: list[Json] = []
    for name, runs in studied.groups.items():
        curves, to_mps = [run.timed.curve for run, _, _ in runs], studied.measure.to_mps
        whole, between = from_full_power(curves, to_mps), from_full_power(curves, to_mps, studied.measure.from_mps)
        made.append(
            {
                "name": name,
                "runs": len(runs),
                "from_full_power_s": _value(whole),
                "time_s": _value(between),
                "sentence": roll_ons_sentence(studied.measure.name, whole, between),
            }
        )
    return made


def _levels(studied: Studied) -> list[Json]:
    """Every group as a level, the first being what the others are compared with."""
    groups = [
        Group([value.value for _, _, value in runs], states=[state for _, state, _ in runs], name=name)
        for name, runs in studied.groups.items()
    ]
    found = levels(studied.measure, studied.clock, groups, quantity=studied.quantity)
    sentence = levels_sentence(found)
    return [
        {
            "name": level.name,
            "runs": level.runs,
            "mean": {"value": level.mean, "u95": level.u95},
            "best": level.best,
            "rank": level.rank,
            "difference": level.difference and _value(level.difference),
            "verdict": level.against and level.against.verdict,
            "sentence": sentence if level.against is None else "",
        }
        for level in found
    ]


MADE: Mapping[Kind, Callable[[Studied], list[Json]]] = {
    "sweep": _sweeps,
    "braking": _braking,
    "roll-ons": _roll_ons,
    "repeatability": _repeatability,
    "receivers": _receivers,
    "levels": _levels,
}


def _value(value: Value) -> Json:
    return {"value": value.value, "u95": value.u95}
