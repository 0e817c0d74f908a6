"""The two groups of `coombe compare`, from logs, typed values or a run table, with what is known beside them."""

from __future__ import annotations

import argparse
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from coombe_core.analysis import AnalyzedRun, Request, analyse_log
from coombe_core.cli.process_pool import in_processes
from coombe_core.cli.run_table import Row, RunTableError, before_and_after, read_run_table
from coombe_core.comparing.comparison import Group, Known
from coombe_core.comparing.factors import ADJUSTABLE
from coombe_core.comparing.factors import known as noted_of
from coombe_core.comparing.groups import NoSuchQuantityError, group_of_runs, shared_quantity
from coombe_core.comparing.sensitivity import Sensitivities, SetupDay, by_physics, learned
from coombe_core.comparing.state import State, hour_of
from coombe_core.formats import ReadError
from coombe_core.physics.air import STANDARD_DENSITY_KG_M3
from coombe_core.physics.course import SurveyedCourse, directions_of, mean_heading_deg
from coombe_core.physics.road_load import RoadLoad
from coombe_core.timing.corrections import Correction
from coombe_core.timing.measures import Measure
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value


@dataclass(frozen=True)
class LogRun:
    """A run of a log and the table's row for it, its UTC day and hour, its heading and the receiver's rate."""

    timed: AnalyzedRun
    row: Row
    day: str
    hour: float
    heading_deg: float | None
    rate_hz: float


@dataclass(frozen=True)
class Compared:
    """Two groups, the runs that they were made of (none of typed values), and what is compared of them."""

    groups: tuple[Group, Group]
    runs: Sequence[LogRun]
    options: argparse.Namespace

    @classmethod
    def of(cls, options: argparse.Namespace) -> Compared:
        """Those that a command line asks for.

        Raises ReadError, RunTableError, NoSuchQuantityError or UnusableValueError with a sentence.
        """
        runs = [_runs(of_group, options.measure) for of_group in _rows(options)]
        first, second = _groups(options, runs)
        return cls((first, second), [run for group in runs for run in group], options)

    def known(self) -> Known:
        """How the measure changes with conditions: by physics of the first run, and learned within groups and days."""
        if not self.runs:
            return Known()
        physics = self._physics() if self.options.quantity == "time" else Sensitivities()
        by_day: dict[tuple[int, str], tuple[list[float], list[State]]] = defaultdict(lambda: ([], []))
        for number, group in enumerate(self.groups):
            for value, state in zip(group.values, group.noted, strict=True):
                values, states = by_day[number, state.day]
                values.append(value)
                states.append(state)
        return Known(None, physics + learned([SetupDay(*day) for day in by_day.values()], physics))

    def adjustable(self, known: Known) -> frozenset[str]:
        """The factors that were noted of every run and whose effect is known."""
        states = [state for group in self.groups for state in group.noted]
        return frozenset(
            name
            for name, factor in ADJUSTABLE.items()
            if known.sensitivities.of(name) and len(noted_of(factor, states)) == len(states)
        )

    def _physics(self) -> Sensitivities:
        run, states = self.runs[0], [state for group in self.groups for state in group.noted]
        mass_kg = run.row.numbers.get("mass_kg")
        densities = [state.density_kg_m3 for state in states if state.density_kg_m3 is not None]
        winds = [state.head_wind_mps for state in states if state.head_wind_mps is not None]
        return by_physics(
            run.timed.curve,
            self.options.measure,
            self.options.clock,
            RoadLoad.of(mass_kg, None) if mass_kg else None,
            float(np.mean(densities)) if densities else STANDARD_DENSITY_KG_M3,
            float(np.mean(winds)) if winds else 0.0,
        )


def _rows(options: argparse.Namespace) -> list[list[Row]]:
    """The table's rows of either group, or one for each log."""
    given = [(options.before, options.before_values), (options.after, options.after_values)]
    if options.runs:
        if any(logs or values for logs, values in given):
            raise RunTableError("give either --runs or the two groups, not both")
        return list(before_and_after(options.runs, read_run_table(options.runs)))
    if not all(logs or values for logs, values in given):
        raise RunTableError("give --before or --before-values and --after or --after-values, or --runs")
    return [[Row(0, Path(log), {}, {}) for log in logs] for logs, _ in given]


def _groups(options: argparse.Namespace, runs: Sequence[Sequence[LogRun]]) -> list[Group]:
    measure, clock = options.measure, options.clock
    states = _noted(*runs)
    if options.quantity == "peak_power":
        return [_powers(found, noted) for found, noted in zip(runs, states, strict=True)]
    typed = _typed(options.before_values, options.after_values, options.one_day)
    field = shared_quantity(options.quantity, [run.timed for group in runs for run in group], measure, clock)
    return [
        made or group_of_runs([run.timed for run in found], measure, clock, field, states=noted)
        for made, found, noted in zip(typed, runs, states, strict=True)
    ]


def _powers(runs: Sequence[LogRun], states: Sequence[State]) -> Group:
    """A group of peak powers at the wheels, in kW."""
    lacking = next((run for run in runs if "mass_kg" not in run.row.numbers), None)
    if not runs or lacking:
        where = f"line {lacking.row.line}" if lacking and lacking.row.line else "the run table"
        raise NoSuchQuantityError(f"peak_power needs the car's mass: give mass_kg in {where}")
    known = [(run.timed.wheel_power, state) for run, state in zip(runs, states, strict=True)]
    return Group(
        [power.peak_w / 1000 for power, _ in known if power],
        states=[state for power, state in known if power],
    )


def _typed(before: list[float] | None, after: list[float] | None, one_day: bool) -> list[Group | None]:
    """Groups of typed values; of one day they were driven in the order in which they stand."""

    made: list[Group | None] = []
    driven = 0
    for values in (before, after):
        states = [State(day="one day", hour=float(driven + place)) for place in range(len(values or ()))]
        driven += len(states)
        made.append(Group(values, states=states if one_day else ()) if values else None)
    return made


def _noted(*groups: Sequence[LogRun]) -> list[list[State]]:
    """What logs and their rows tell of the runs of all groups."""

    directions = iter(directions_of([run.heading_deg for group in groups for run in group]))
    return [[_state(run, next(directions)) for run in group] for group in groups]


def _state(run: LogRun, direction: str) -> State:

    slope = run.timed.slope_percent
    of_log = State(
        day=run.day,
        hour=run.hour,
        direction=direction,
        rate_hz=run.rate_hz,
        slope_percent=slope.value if slope else None,
    )
    return run.row.state(of_log, run.heading_deg)


def _runs(rows: Sequence[Row], measure: Measure) -> list[LogRun]:
    """Every complete run of the logs that no flag voids. Raises ReadError with the path of a log that fails."""

    runs: list[LogRun] = []
    for row in rows:
        mass_kg = row.numbers.get("mass_kg")
        load = RoadLoad.of(mass_kg, None) if mass_kg else None
        request = Request([measure], _surveyed(row.numbers.get("slope_percent")), Correction(road_load=load))
        try:
            with row.log.open("rb") as log:
                analysis = analyse_log(log, request, in_processes)
        except OSError as error:
            raise ReadError(f"{row.log}: {error.strerror}") from None
        except ReadError as error:
            raise ReadError(f"{row.log}: {error}") from None
        runs.extend(_log_run(run, row, analysis.reading.trace) for run in analysis.runs if run.counts(measure))
    return runs


def _log_run(run: AnalyzedRun, row: Row, trace: Trace) -> LogRun:

    at = trace.utc_at(run.start_s)
    heading = mean_heading_deg(trace.between(run.start_s, run.end_s))
    return LogRun(run, row, f"{at:%Y-%m-%d}", hour_of(at), heading, round(trace.rate_hz, 1))


def _surveyed(slope_percent: float | None) -> SurveyedCourse | None:
    return None if slope_percent is None else SurveyedCourse(Value(slope_percent, 0.0))
