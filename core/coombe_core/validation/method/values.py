"""Seasons of bare values beyond the simulated car: drifts, days that differ, fading stops, what was typed or not noted.

A value is a base times one plus what the day, the driver, a drift from run to run and the change made of it. Nothing
here knows what the comparison will make of it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from coombe_core.comparing.comparison import Asked, Group, Known, Quantity
from coombe_core.comparing.factors import CHARGE
from coombe_core.comparing.sensitivity import SetupDay, learned
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.scatter import Scatter, assumed_scatter, own_scatter
from coombe_core.comparing.verdict import compare
from coombe_core.planning.sample_size import MOST_DAYS, days_needed
from coombe_core.simulating.many import Floats
from coombe_core.timing.measures import parse_measure
from coombe_core.validation.method.tables import Line

SIXTY, STOP, QUARTER = parse_measure("0-60 mph"), parse_measure("60-0 mph"), parse_measure("1/4 mile")
TIME: Quantity = "time"
TRAP_SPEED: Quantity = "trap_speed"
DISTANCE: Quantity = "distance"
CLEAR = ("faster", "slower", "shorter", "longer")
FEWEST, MOST = 3, 8
FULL_PERCENT, A_RUN_PERCENT, BY_PERCENT = 90.0, 1.0, 0.001  # charge of the first run, lost a run, and a time's share
LEARNED_FROM = 12  # runs


@dataclass(frozen=True)
class Kind:
    """How the runs of a season lie, what goes on in it beside the change, and what was noted; shares of a value.

    `receivers` is how far the two groups' own receivers are apart, either way. With `learned_while_settling` charge
    falls from run to run and is adjusted for, by what a day showed on which the driver settled by so much a run.
    `planned` days are as many as the plan asks for that gain.
    """

    design: Literal["in turn", "one after the other", "own days"] = "in turn"
    effect: float = 0.0
    run: tuple[float, float] = (0.003, 0.009)
    day: tuple[float, float] = (0.0055, 0.35)
    drift: float = 0.0
    drift_sd: float = 0.0
    linked: float = 0.0
    outliers: float = 0.0
    base: tuple[float, float] = (3.2, 7.5)
    written_to: float = 0.0
    history: bool = False
    days_not_noted: int = 0
    stop: bool = False
    trap_speed: bool = False
    receivers: float = 0.0
    learned_while_settling: float | None = None
    planned: bool = False


KINDS: Mapping[str, Kind] = {
    "in turn": Kind(),
    "in turn, one run in ten far off": Kind(outliers=0.1),
    "in turn, runs linked by 0.5": Kind(linked=0.5),
    "in turn, written to 0.1 s, runs within 0.3 %": Kind(run=(0.003, 0.003), written_to=0.1),
    "one after the other": Kind("one after the other"),
    "one after the other, runs linked by 0.5": Kind("one after the other", linked=0.5),
    "one after the other, drifts of 0.1 % a run": Kind("one after the other", drift_sd=0.001),
    "one after the other, the driver settles by 0.2 % a run": Kind("one after the other", drift=-0.002),
    "own days": Kind("own days"),
    "own days, the car's history known": Kind("own days", history=True),
    "own days, one run lacks its day": Kind("own days", days_not_noted=1),
    "own days that differ by 1.5 %": Kind("own days", day=(0.015, 0.0)),
    "own days that differ by 1.5 %, history known": Kind("own days", day=(0.015, 0.0), history=True),
    "nobody noted the days": Kind("own days", days_not_noted=MOST),
    "trap speed, one after the other": Kind("one after the other", trap_speed=True, base=(45.0, 60.0)),
    "in turn, receivers that are 0.3 % apart": Kind(receivers=0.003),
    "one after the other, adjusted for charge": Kind("one after the other", learned_while_settling=0.0),
    "one after the other, adjusted for a charge learned while the driver settled by 0.25 % a run": Kind(
        "one after the other", learned_while_settling=-0.0025
    ),
    "stops": Kind(stop=True, run=(0.009, 0.009), base=(34.0, 34.0)),
    "stops that fade by 0.9 % each": Kind(stop=True, run=(0.009, 0.009), base=(34.0, 34.0), drift=0.009),
    "stops that fade, one after the other": Kind(
        "one after the other", stop=True, run=(0.009, 0.009), base=(34.0, 34.0), drift=0.009
    ),
}
FOUND: Mapping[str, tuple[Kind, float]] = {
    "in turn": (KINDS["in turn"], 0.75),
    "one after the other": (KINDS["one after the other"], 0.45),
    "stops that fade, in turn": (KINDS["stops that fade by 0.9 % each"], 0.60),
    "own days": (KINDS["own days"], 0.0),
    "own days, the car's history known": (KINDS["own days, the car's history known"], 0.0),
    "own days that differ by 2 %, as many as the plan asks": (
        Kind("own days", day=(0.02, 0.0), history=True, planned=True),
        0.0,
    ),
}
GAIN = 0.015


def unchanged(count: int, seed: int) -> list[Line]:
    """Seasons in which nothing was changed: how many are called different."""
    return [_line(name, seen(kind, count, [seed, 5, place]), count) for place, (name, kind) in enumerate(KINDS.items())]


def changed(count: int, seed: int) -> list[Line]:
    """Seasons with a true gain of 1.5 %: how many are found."""
    return [
        replace(_line(name, seen(replace(kind, effect=-GAIN), count, [seed, 6, place]), count), least=least, most=1.0)
        for place, (name, (kind, least)) in enumerate(FOUND.items())
    ]


def _line(name: str, found: Seen, count: int) -> Line:
    words = ", ".join(f"{times} {word}" for word, times in found.words.most_common())
    remark = f"{words}; the interval held in {100 * found.held / count:.1f} %"
    return Line(name, count, found.clear / count, most=0.065, remark=remark)


@dataclass
class Seen:
    """What came of a number of seasons of one kind."""

    words: Counter[str] = field(default_factory=Counter)
    held: int = 0

    @property
    def clear(self) -> int:
        """How many differences were called clear."""
        return sum(self.words[word] for word in CLEAR)


def seen(kind: Kind, count: int, seed: Sequence[int]) -> Seen:
    """Compare the two groups of a number of seasons of one kind."""
    found = Seen()
    for number in range(count):
        draw = np.random.default_rng([*seed, number])
        base, groups, known = _season(kind, draw)
        measure, quantity = (
            (STOP, DISTANCE) if kind.stop else (QUARTER, TRAP_SPEED) if kind.trap_speed else (SIXTY, TIME)
        )
        asked = Asked() if kind.learned_while_settling is None else Asked(adjust=frozenset({CHARGE.name}))
        result = compare(measure, measure.clocks[-1], *groups, quantity, known, asked)
        found.words[result.verdict] += 1
        found.held += bool(
            result.difference and result.difference.low95 <= base * kind.effect <= result.difference.high95
        )
    return found


def _season(kind: Kind, draw: np.random.Generator) -> tuple[float, tuple[Group, Group], Known]:
    base, run = draw.uniform(*kind.base), draw.uniform(*kind.run)
    day_sd = float(np.exp(draw.normal(np.log(kind.day[0]), kind.day[1])))
    values: tuple[list[float], list[float]] = ([], [])
    states: tuple[list[State], list[State]] = ([], [])
    own_receiver = (0.0, kind.receivers * float(draw.choice([-1.0, 1.0])))
    by_charge = 0.0 if kind.learned_while_settling is None else BY_PERCENT * A_RUN_PERCENT
    scatter = own_scatter(_history(base, run, day_sd, draw), base) if kind.history else None
    days = _days_of_the_plan(GAIN * base, scatter) if kind.planned else _days(kind, draw)
    for number, order in enumerate(days):
        lie, slope = draw.normal(0.0, day_sd), kind.drift + kind.drift_sd * draw.normal()
        own = run * _linked(draw, len(order), kind.linked)
        own += np.where(draw.random(len(order)) < kind.outliers, 4 * run * np.abs(draw.normal(size=len(order))), 0.0)
        for place, group in enumerate(order):
            value = base * (1.0 + lie + (slope + by_charge) * place + own[place] + own_receiver[group])
            value += base * group * kind.effect
            values[group].append(round(value / kind.written_to) * kind.written_to if kind.written_to else value)
            states[group].append(
                State(
                    day=f"day {number}",
                    hour=9.0 + place / 10,
                    receiver=f"receiver {group}" if kind.receivers else "",
                    charge_percent=FULL_PERCENT - A_RUN_PERCENT * place if by_charge else None,
                )
            )
    after = [replace(s, day="", hour=None) if n < kind.days_not_noted else s for n, s in enumerate(states[1])]
    before = [replace(state, day="", hour=None) for state in states[0]] if kind.days_not_noted >= MOST else states[0]
    known = Known(scatter)
    if kind.learned_while_settling is not None:
        known = Known(None, learned([_a_day_of_falling_charge(base, run, kind.learned_while_settling, draw)]))
    return base, (Group(values[0], states=before), Group(values[1], states=after)), known


def _days(kind: Kind, draw: np.random.Generator) -> list[list[int]]:
    """Which group each run of each day belongs to."""
    runs = int(draw.integers(FEWEST, MOST + 1))
    if kind.design == "one after the other":
        return [[0] * runs + [1] * runs]
    if kind.design == "own days":
        days = 2 if runs >= 4 and draw.random() < 0.5 else 1
        return [[group] * max(runs // days, 2) for group in (0, 1) for _ in range(days)]
    days = 2 if runs >= 6 and draw.random() < 0.5 else 1
    shares = [runs // days + (runs % days if day == 0 else 0) for day in range(days)]
    return [[group for pair in range(share) for group in ((0, 1) if pair % 2 == 0 else (1, 0))] for share in shares]


def _days_of_the_plan(gain: float, scatter: Scatter | None) -> list[list[int]]:
    """As many days of each group as show a gain, or the most that are planned."""
    days, runs = days_needed(gain, scatter or assumed_scatter(1.0)) or (MOST_DAYS, 3 * MOST_DAYS)
    return [[group] * -(-runs // days) for _ in range(days) for group in (0, 1)]


def _history(base: float, run: float, day_sd: float, draw: np.random.Generator) -> list[list[list[float]]]:
    """Two setups of three days and four runs each."""
    return [[list(base * (1 + lie + run * draw.normal(size=4))) for lie in draw.normal(0, day_sd, 3)] for _ in range(2)]


def _a_day_of_falling_charge(base: float, run: float, settles: float, draw: np.random.Generator) -> SetupDay:
    """What charge is learned from: one day of the same car, on which the driver may have settled."""
    places = np.arange(LEARNED_FROM)
    shares = (BY_PERCENT * A_RUN_PERCENT + settles) * places + run * draw.normal(size=LEARNED_FROM)
    states = [
        State(charge_percent=FULL_PERCENT - A_RUN_PERCENT * place, day="learned", hour=9.0 + place / 10)
        for place in places.tolist()
    ]
    return SetupDay((base * (1.0 + shares)).tolist(), states)


def _linked(draw: np.random.Generator, size: int, link: float) -> Floats:
    """Scatter of unit variance of which each run keeps a share of the one before."""
    made = draw.normal(size=size)
    for place in range(1, size):
        made[place] = link * made[place - 1] + np.sqrt(1 - link**2) * made[place]
    return made
