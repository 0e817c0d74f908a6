"""Two groups of values, compared: what tests of the statistics start from."""

from coombe_core.comparing.comparison import Asked, Comparison, Group, Known
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.interval import Difference
from coombe_core.comparing.statistics.permutation import Permutation
from coombe_core.comparing.verdict import compare
from coombe_core.timing.measures import parse_measure

SIXTY = parse_measure("0-60 mph")


def compared(before: Group, after: Group, known: Known | None = None, asked: Asked | None = None) -> Comparison:
    """The comparison of 0-60 mph on the rollout clock."""
    return compare(SIXTY, "rollout", before, after, known=known, asked=asked)


def difference(before: list[float], after: list[float], common_u95: float = 0.0) -> Difference:
    """The difference of plain values, of which nothing was noted."""
    found = compared(Group(before, common_u95=common_u95), Group(after)).difference
    assert found is not None
    return found


def relabelled(before: list[float], after: list[float]) -> Permutation:
    """The permutation test of plain values."""
    found = compared(Group(before), Group(after)).permutation
    assert found is not None
    return found


def smallest(before: list[float], after: list[float], common_u95: float = 0.0) -> float:
    """What such groups would have shown."""
    found = compared(Group(before, common_u95=common_u95), Group(after)).smallest_shown
    assert found is not None
    return found


def driven(values: list[float], day: str = "", directions: str = "", **noted) -> Group:
    """A group whose runs were driven on a day, out (o) and back (b)."""
    letters = {"o": "out", "b": "back"}
    driven_in = [letters[letter] for letter in directions] or [""] * len(values)
    return Group(values, states=[State(day=day, direction=way, **noted) for way in driven_in])
