"""Two groups of values, compared: what tests of the statistics start from."""

import numpy as np

from coombe_core.comparing.comparison import Asked, Comparison, Group, Known
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics import interval
from coombe_core.comparing.statistics.contrast import contrast
from coombe_core.comparing.statistics.interval import Difference, shared_part
from coombe_core.comparing.statistics.layout import Layout, layout_of
from coombe_core.comparing.statistics.permutation import Permutation, permutation
from coombe_core.comparing.statistics.power import detectable_difference
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure

SIXTY = parse_measure("0-60 mph")


def compared(before: Group, after: Group, known: Known | None = None, asked: Asked | None = None) -> Comparison:
    """The comparison of 0-60 mph on the rollout clock."""
    return compare(SIXTY, "rollout", before, after, known=known, asked=asked)


def textbook(before: Group, after: Group, common_u95: float = 0.0) -> Difference:
    """The difference as textbooks have it: of values alone, with nothing known of cars and days."""
    values = np.array([*before.values, *after.values])
    found = contrast(values, laid_out(before, after))
    assert found is not None
    return interval.difference(found.of(values), [*found.parts, shared_part(common_u95)])


def laid_out(before: Group, after: Group) -> Layout:
    """Which of the runs were driven on one day, and which way."""
    states = [*before.noted, *after.noted]
    flags = [False] * len(before.values) + [True] * len(after.values)
    return layout_of([state.day for state in states], [state.direction for state in states], flags)


def difference(before: list[float], after: list[float], common_u95: float = 0.0) -> Difference:
    """The textbook's difference of values of one day."""
    return textbook(driven(before, "a"), driven(after, "a"), common_u95)


def relabeled(before: list[float], after: list[float]) -> Permutation:
    """The permutation test of values of one day."""
    found = permutation(np.array([*before, *after]), laid_out(driven(before, "a"), driven(after, "a")))
    assert found is not None
    return found


def smallest(before: list[float], after: list[float], common_u95: float = 0.0) -> float:
    """What such groups would have shown."""
    found = difference(before, after, common_u95)
    return detectable_difference(found.error, found.dof)


def driven(values: list[float], day: str = "", directions: str = "", **noted) -> Group:
    """A group whose runs were driven on a day, out (o) and back (b)."""
    letters = {"o": "out", "b": "back"}
    driven_in = [letters[letter] for letter in directions] or [""] * len(values)
    return Group(values, states=[State(day=day, direction=way, **noted) for way in driven_in])
