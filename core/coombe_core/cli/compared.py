"""The two groups of `coombe compare`, from logs, typed values or a run table, with what is known beside them."""

from __future__ import annotations

import argparse
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from coombe_core.cli.logged import LogRun, runs_of, states_of
from coombe_core.cli.run_table import Row, RunTableError, before_and_after, read_run_table
from coombe_core.comparing.comparison import Group, Known
from coombe_core.comparing.factors import ADJUSTABLE
from coombe_core.comparing.factors import known as noted_of
from coombe_core.comparing.groups import NoSuchQuantityError, group_of_runs, shared_quantity
from coombe_core.comparing.sensitivity import Sensitivities, SetupDay, air_of, by_physics, learned
from coombe_core.comparing.state import State
from coombe_core.physics.road_load import RoadLoad


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
        runs = [runs_of(of_group, options.measure) for of_group in _rows(options)]
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
        load = RoadLoad.of(mass_kg, None) if mass_kg else None
        return by_physics(run.timed.curve, self.options.measure, self.options.clock, load, *air_of(states))


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
    states = states_of(*runs)
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
