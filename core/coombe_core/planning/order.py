"""The order of a day's runs, and what an order confounds with the groups."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Literal, get_args

import numpy as np

Order = Literal["alternating", "ABBA", "blocked", "randomized"]
Kind = Literal["run", "stop", "roll-on"]
ORDERS: tuple[Order, ...] = get_args(Order)
LANES = ("left", "right")
LEAST_SHIFT = 0.25  # groups whose mean places are further apart than this share of the day ride on its drift


@dataclass(frozen=True)
class Planned:
    """One run of a plan: its group, direction along the course, lane, and what must be so before it begins."""

    group: str
    kind: Kind = "run"
    direction: str = "out"
    lane: str = ""
    charge_percent: float | None = None
    from_speed_mps: float | None = None
    wait_min: float = 0.0


def run_order(
    groups: Sequence[str], runs: int, order: Order, both_directions: bool = False, seed: int = 0, kind: Kind = "run"
) -> list[Planned]:
    """Put the runs of a plan in order.

    Parameters
    ----------
    groups : sequence of str
        The groups.
    runs : int
        Per group.
    order : {"alternating", "ABBA", "blocked", "randomized"}
    both_directions : bool
        Whether a visit is a pair, out and back; an odd count then gains one.
    seed : int
        For a randomized order.
    kind : {"run", "stop", "roll-on"}

    Returns
    -------
    list of Planned

    Raises
    ------
    ValueError
        Where there is no group or no run.
    """
    if not groups or runs < 1:
        raise ValueError("a plan needs at least one group and one run")
    directions = ("out", "back") if both_directions else ("out",)
    visits = _visits(list(groups), -(-runs // len(directions)), order, np.random.default_rng(seed))
    return [Planned(group, kind, direction) for group in visits for direction in directions]


def _visits(groups: list[str], each: int, order: Order, draw: np.random.Generator) -> list[str]:
    if order == "blocked":
        return [group for group in groups for _ in range(each)]
    if order == "alternating":
        return groups * each
    if order == "ABBA":
        return [group for block in range(each) for group in (groups if block % 2 == 0 else groups[::-1])]
    return [groups[i] for _ in range(each) for i in draw.permutation(len(groups))]


def with_lanes(planned: Sequence[Planned]) -> list[Planned]:
    """Give two cars side by side their lanes; each group's lane is swapped after each of its passes."""
    passes: dict[str, int] = {}
    made = []
    for step in planned:
        first = list(dict.fromkeys(each.group for each in planned)).index(step.group)
        count = passes.get(step.group, 0)
        made.append(replace(step, lane=LANES[(first + count) % 2]))
        passes[step.group] = count + 1
    return made


def stop_series(group: str, stops: int, cooling_min: float, both_directions: bool = False) -> list[Planned]:
    """Plan repeated stops, with the brakes cooled for the same time before every one but the first."""
    directions = ("out", "back") if both_directions else ("out",)
    return [
        Planned(group, "stop", directions[i % len(directions)], wait_min=cooling_min if i else 0.0)
        for i in range(stops)
    ]


def charge_ladder(
    group: str, from_percent: float, to_percent: float, step: float, runs: int, both_directions: bool = False
) -> list[Planned]:
    """Plan a sweep: runs at every rung from a high charge down to a low one.

    Parameters
    ----------
    group : str
    from_percent, to_percent, step : float
        Charge.
    runs : int
        At every rung.
    both_directions : bool

    Returns
    -------
    list of Planned

    Raises
    ------
    ValueError
        Where the ladder does not go down.
    """
    if step <= 0 or to_percent >= from_percent:
        raise ValueError("a sweep goes down from a higher charge to a lower one")
    rungs = np.arange(from_percent, to_percent - 1e-9, -step)
    directions = ("out", "back") if both_directions else ("out",)
    return [
        Planned(group, "run", directions[i % len(directions)], charge_percent=float(rung))
        for rung in rungs
        for i in range(runs)
    ]


def roll_on_set(
    groups: Sequence[str],
    speeds_mps: Sequence[float],
    runs: int,
    order: Order,
    both_directions: bool = False,
    seed: int = 0,
) -> list[Planned]:
    """Plan roll-ons from every named speed (m/s), each in the chosen order of groups."""
    return [
        replace(step, from_speed_mps=speed)
        for speed in speeds_mps
        for step in run_order(groups, runs, order, both_directions, seed, "roll-on")
    ]


@dataclass(frozen=True)
class Confounding:
    """Something that goes with the groups in an order, and the order that avoids it, if one does.

    `late` and `early` name groups whose runs are apart by `shift`, a share of the day; `shares` says of each group how
    many of its runs have `value`, such as a direction.
    """

    what: Literal["time of day", "direction", "lane", "day"]
    avoided_by: Order | None = None
    late: str = ""
    early: str = ""
    shift: float = 0.0
    value: str = ""
    shares: Mapping[str, float] = field(default_factory=dict)


def confounded(planned: Sequence[Planned], can_alternate: bool = True) -> list[Confounding]:
    """Find what an order leaves inseparable from the groups.

    Parameters
    ----------
    planned : sequence of Planned
        One day, in order.
    can_alternate : bool
        Whether the change can be undone within a day.

    Returns
    -------
    list of Confounding
    """
    groups = list(dict.fromkeys(step.group for step in planned))
    if len(groups) < 2:
        return []
    found = []
    places = {group: np.mean([i for i, step in enumerate(planned) if step.group == group]) for group in groups}
    shift = (max(places.values()) - min(places.values())) / max(len(planned) - 1, 1)
    if shift > LEAST_SHIFT:
        late, early = max(places, key=places.__getitem__), min(places, key=places.__getitem__)
        found.append(Confounding("time of day", "ABBA" if can_alternate else None, late, early, float(shift)))
    found += _uneven(planned, groups, "direction", [step.direction for step in planned])
    found += _uneven(planned, groups, "lane", [step.lane for step in planned])
    return found


def _uneven(
    planned: Sequence[Planned], groups: Sequence[str], what: Literal["direction", "lane"], values: Sequence[str]
) -> list[Confounding]:
    shares = {
        group: float(
            np.mean([value == values[0] for step, value in zip(planned, values, strict=True) if step.group == group])
        )
        for group in groups
    }
    if max(shares.values()) - min(shares.values()) <= 1 / 3:
        return []
    return [Confounding(what, value=values[0], shares=shares)]


def split_by_days(groups: Sequence[str], days: int, runs: int, both_directions: bool = False) -> list[list[Planned]]:
    """Plan a change that can't be undone: all days of one group, then all of the next, the runs spread evenly."""
    directions = 2 if both_directions else 1
    share = -(-runs // days)
    share += share % directions
    return [run_order([group], share, "blocked", both_directions) for group in groups for _ in range(days)]


DAY_AND_CHANGE = Confounding("day")


def duration_min(planned: Sequence[Planned], minutes_per_run: float, minutes_per_change: float = 0.0) -> float:
    """Add up the minutes that runs take, with the changes of group between them and the waiting before them."""
    changes = sum(1 for a, b in pairwise(planned) if a.group != b.group)
    return len(planned) * minutes_per_run + changes * minutes_per_change + sum(step.wait_min for step in planned)
