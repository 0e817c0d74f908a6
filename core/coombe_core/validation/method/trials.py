"""Trials of the comparison on simulated seasons whose truth is known: how often it errs, finds, names and adjusts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from coombe_core.comparing.breakdown import EdgeTimes
from coombe_core.comparing.comparison import Asked, Comparison, Group, Known
from coombe_core.comparing.sensitivity import Sensitivities, SetupDay, by_physics, learned
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.scatter import Scatter, own_scatter
from coombe_core.comparing.verdict import compare
from coombe_core.curve import Curve
from coombe_core.physics.road_load import RoadLoad
from coombe_core.planning.order import run_order, split_by_days
from coombe_core.simulating.many import SPEEDS_MPS, Floats, Launches, Passings, launch_all
from coombe_core.timing.measures import Measure
from coombe_core.units import KMH_MPS
from coombe_core.validation.method.seasons import Person, Season, Strip, drive_day, person, read, steps, strip

GROUPS = ("before", "after")
CHUNK = 6000  # launches that are driven at once


@dataclass
class Case:
    """One question: its runs' places in the season, the days of its car's history, and its sweep."""

    who: Person
    runs: list[int] = field(default_factory=list)
    after: list[bool] = field(default_factory=list)
    history: list[list[list[int]]] = field(default_factory=list)
    sweep: list[int] = field(default_factory=list)
    design: str = ""


@dataclass(frozen=True, eq=False)
class Driven:
    """A season that was driven: its launches and states, and the times read of each run."""

    season: Season
    launches: Launches
    passings: Passings
    read_s: Floats


def interleaved(season: Season, draw: np.random.Generator, runs: int, history: bool = True) -> Case:
    """Both groups on each of one or two days, alternating, both directions where the count allows it."""
    case, where = Case(person(draw), design=f"{runs} a group"), strip(draw)
    days = 2 if runs >= 6 and draw.random() < 0.5 else 1
    for day in range(days):
        share = runs // days + (runs % days if day == 0 else 0)
        order = run_order(GROUPS, share, "ABBA", both_directions=share % 2 == 0, seed=int(draw.integers(1 << 30)))
        driven = steps(
            [s.group for s in order], [s.direction for s in order], draw.uniform(90, 97), draw.normal(46, 1), draw
        )
        case.runs += drive_day(season, case.who, f"day {day}", driven, where, draw)
        case.after += [group == "after" for group in driven.groups]
    if history:
        case.history = _history(season, case.who, where, draw)
    return case


def on_days(
    season: Season, draw: np.random.Generator, runs: int, history: bool = True, charge: float | None = None
) -> Case:
    """Each group on one or two days of its own; the after group at `charge` where that is given."""
    case, where = Case(person(draw), design=f"{runs} a group"), strip(draw)
    days = 2 if runs >= 4 and draw.random() < 0.5 else 1
    for number, order in enumerate(split_by_days(GROUPS, days, runs, runs % (2 * days) == 0)):
        group = order[0].group
        order = order[: max(runs // days, 2 if days > 1 else runs)]
        begins = charge if charge is not None and group == "after" else draw.uniform(90, 97)
        driven = steps([s.group for s in order], [s.direction for s in order], begins, draw.normal(46, 1), draw)
        case.runs += drive_day(season, case.who, f"day {number}", driven, where, draw)
        case.after += [group == "after"] * len(order)
    if history:
        case.history = _history(season, case.who, where, draw)
    return case


def with_sweep(season: Season, draw: np.random.Generator, runs: int, points: float = 40.0) -> Case:
    """Groups of different charge, and a sweep of five runs over 40 points on a day before."""
    case = on_days(season, draw, runs, False, charge=draw.uniform(62, 80))
    charges = list(np.linspace(95, 95 - points, 5))
    driven = replace(steps(["before"] * 5, ["out"] * 5, 95, draw.normal(46, 1), draw), charges=charges)
    case.sweep = drive_day(season, case.who, "sweep", driven, strip(draw), draw)
    return case


def _history(season: Season, who: Person, where: Strip, draw: np.random.Generator) -> list[list[list[int]]]:
    """Two setups of three days and four runs each."""
    made = []
    for setup in range(2):
        days = []
        for day in range(3):
            driven = steps(["old"] * 4, ["out", "back"] * 2, draw.uniform(90, 97), draw.normal(46, 1), draw)
            days.append(drive_day(season, who, f"old {setup} {day}", driven, where, draw))
        made.append(days)
    return made


def drive(
    season: Season, measure: Measure, draw: np.random.Generator, change: Callable[[Launches], Launches] | None = None
) -> Driven:
    """Drive every launch of a season, in chunks, and read the measure's times on the rollout clock."""
    launches = season.launches()
    launches = change(launches) if change else launches
    size = launches.mass_kg.size
    parts = [
        launch_all(launches.of(slice(start, start + CHUNK)), measure.to_mps, to_m=measure.to_m)[0]
        for start in range(0, size, CHUNK)
    ]
    passings = Passings(np.vstack([p.at_speed_s for p in parts]), np.vstack([p.at_distance_s for p in parts]))
    return Driven(season, launches, passings, read(_times(passings, measure), draw))


def _times(passings: Passings, measure: Measure) -> Floats:
    ends = passings.time_s(measure.to_mps) if measure.to_mps else passings.at_distance_s[:, -1]
    return np.asarray(ends - passings.rollout_s())


def compared(
    case: Case, driven: Driven, measure: Measure, known: Known | None = None, asked: Asked | None = None
) -> Comparison:
    """The comparison that the application would make of a case."""
    after = np.array(case.after)
    places = np.array(case.runs)
    groups = [_group(places[after == is_after], driven, measure) for is_after in (False, True)]
    return compare(measure, "rollout", groups[0], groups[1], known=known or Known(scatter(case, driven)), asked=asked)


def _group(places: Floats, driven: Driven, measure: Measure) -> Group:
    edges = [_edges(int(place), driven, measure) for place in places]
    states = [driven.season.states[int(place)] for place in places]
    return Group(
        [float(driven.read_s[int(place)]) for place in places], edges, 0.0, states, edges if measure.to_m else ()
    )


def _edges(place: int, driven: Driven, measure: Measure) -> EdgeTimes:
    """Times at every 10 km/h below the measure's end, read with the receiver's error once a run."""
    row, zero = driven.passings.at_speed_s[place], driven.passings.at_distance_s[place, 0]
    whole = float(driven.read_s[place])
    error = whole - float(_times(driven.passings, measure)[place]) if measure.to_mps else 0.0
    metric = [i for i, speed in enumerate(SPEEDS_MPS) if abs(speed / KMH_MPS / 10 - round(speed / KMH_MPS / 10)) < 1e-9]
    inside = [(float(SPEEDS_MPS[i]), float(row[i] - zero) + error) for i in metric if row[i] - zero < whole - 0.05]
    ends = [(measure.to_mps, whole)] if measure.to_mps else []
    points = [(speed, at_s) for speed, at_s in inside if not ends or speed < measure.to_mps - 1e-6] + ends
    return EdgeTimes((0.0, *(speed for speed, _ in points)), (0.0, *(at_s for _, at_s in points)))


def scatter(case: Case, driven: Driven) -> Scatter | None:
    """The car's own scatter from its history; None without one."""
    if not case.history:
        return None
    values = [[[float(driven.read_s[run]) for run in day] for day in days] for days in case.history]
    return own_scatter(values, float(np.mean(values)))


def typical_curves(cases: Sequence[Case], driven: Driven, measure: Measure) -> list[Curve]:
    """The motion of the first run of every case."""
    firsts = driven.launches.of(np.array([case.runs[0] for case in cases]))
    return launch_all(firsts, measure.to_mps, curves=len(cases), to_m=measure.to_m)[1]


def sensitivities(case: Case, driven: Driven, measure: Measure, typical: Curve) -> Sensitivities:
    """What the application would know: physics of a typical run, and what the car's runs tell of charge and heat."""
    physics = by_physics(typical, measure, "rollout", RoadLoad.of(case.who.mass_kg, 0.57), 1.2, 0.0)
    setup_days = [_setup_day(case.sweep, driven), *(_setup_day(day, driven) for days in case.history for day in days)]
    for day in sorted({driven.season.states[run].day for run in case.runs}):
        for group in (False, True):
            runs = [run for run, after in zip(case.runs, case.after, strict=True) if after == group]
            setup_days.append(_setup_day([run for run in runs if driven.season.states[run].day == day], driven))
    return physics + learned([setup_day for setup_day in setup_days if setup_day.values], physics)


def _setup_day(runs: Sequence[int], driven: Driven) -> SetupDay:
    states: list[State] = [driven.season.states[run] for run in runs]
    return SetupDay([float(driven.read_s[run]) for run in runs], states)
