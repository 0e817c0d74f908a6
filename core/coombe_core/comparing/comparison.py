"""What is compared, what is known and asked beside it, and what a comparison found."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, TypeVar

from coombe_core.comparing.adjusting import Adjustment
from coombe_core.comparing.breakdown import Band, EdgeTimes
from coombe_core.comparing.character import Character
from coombe_core.comparing.differences import Explained, Row
from coombe_core.comparing.factors import RECEIVER
from coombe_core.comparing.sensitivity import Sensitivities
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.checks import Trend
from coombe_core.comparing.statistics.contrast import Contrast
from coombe_core.comparing.statistics.interval import Difference, probability_positive
from coombe_core.comparing.statistics.layout import Floats, Layout
from coombe_core.comparing.statistics.permutation import Permutation
from coombe_core.comparing.statistics.samples import Sample
from coombe_core.comparing.statistics.scatter import Scatter
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure
from coombe_core.uncertainty import COVERAGE_95, Value

Kept = TypeVar("Kept")
Quantity = Literal["time", "distance", "line_speed", "trap_speed", "peak_power"]
Verdict = Literal[
    "faster",
    "slower",
    "shorter",
    "longer",
    "leans faster",
    "leans slower",
    "leans shorter",
    "leans longer",
    "no clear difference",
    "too few runs",
    "not comparable",
]
LEANS: dict[Verdict, Verdict] = {
    "faster": "leans faster",
    "slower": "leans slower",
    "shorter": "leans shorter",
    "longer": "leans longer",
}
OPEN: tuple[Verdict, ...] = ("no clear difference", *LEANS.values())
LEANING_P = 0.20  # where the 80 % interval excludes zero
UNITS: dict[Quantity, str] = {
    "time": "s",
    "distance": "m",
    "line_speed": "m/s",
    "trap_speed": "m/s",
    "peak_power": "kW",
}
RECEIVERS_SHARE = 0.002  # of a value: what two receivers may differ by, 1 sigma; a stated default


class UnusableValueError(ValueError):
    """A value that no run can have; its text is a sentence without a period."""


@dataclass(frozen=True)
class Group:
    """One group's values, in SI units, with what was noted of each run and where it passed the edges of bands.

    `states` may be empty where nothing was noted. `common_u95` is the half-width of the 95 % interval of an error that
    is the same for every value of the group. `speed_edges` are those of a distance measure, for its character.
    """

    values: Sequence[float]
    edges: Sequence[EdgeTimes] = ()
    common_u95: float = 0.0
    states: Sequence[State] = ()
    speed_edges: Sequence[EdgeTimes] = ()
    name: str = ""

    def __post_init__(self) -> None:
        """Raises UnusableValueError where a value is none that a run can have."""
        wrong = [value for value in self.values if not (math.isfinite(value) and value > 0)]
        if wrong:
            raise UnusableValueError(f"{wrong[0]:g} is no value of a run: it must be a number above zero")

    @property
    def noted(self) -> Sequence[State]:
        """What was noted, a state a value."""
        return self.states or [State()] * len(self.values)

    def only(self, places: Sequence[int]) -> Group:
        """The group of some of its runs."""

        def some(rows: Sequence[Kept]) -> list[Kept]:
            return [rows[place] for place in places] if len(rows) else []

        return replace(
            self,
            values=some(self.values),
            edges=some(self.edges),
            states=some(self.states),
            speed_edges=some(self.speed_edges),
        )


Groups = tuple[Group, Group]


@dataclass(frozen=True)
class Known:
    """What is known beside the runs: the car's scatter, how the measure changes with conditions, and receivers.

    `receivers` has, for two receivers by name, by what share of a value the second says more than the first, as learned
    from the passes that both saw.
    """

    scatter: Scatter | None = None
    sensitivities: Sensitivities = field(default_factory=Sensitivities)
    receivers: Mapping[tuple[str, str], Value] = field(default_factory=dict)


@dataclass(frozen=True)
class Asked:
    """The factors to adjust for, by name, and the smallest difference that would matter, in the measure's unit.

    With `match`, only runs count that have one of the other group at nearly the same charge.
    """

    adjust: frozenset[str] = frozenset()
    difference_that_matters: float | None = None
    match: bool = False


@dataclass(frozen=True, eq=False)
class Weighed:
    """One way to see the difference: unadjusted or adjusted.

    `under_half` and `under_twice` are what it would be with days that differ by half and by twice of what was assumed;
    None where nothing was. `one_more_day` is what another day of each group, with as many runs, would probably make
    of it, where groups are on days of their own.
    """

    values: Floats
    layout: Layout
    contrast: Contrast
    difference: Difference
    under_half: Difference | None = None
    under_twice: Difference | None = None
    one_more_day: Difference | None = None


@dataclass(frozen=True)
class Likeness:
    """What was noted of both groups, what goes with them throughout, and what unlike conditions could account for."""

    rows: list[Row]
    separating: list[str]
    explained: Explained


@dataclass(frozen=True)
class WhereItWent:
    """The difference by bands, its character, and the speed (m/s) or distance (m) from which on it is clear.

    `halves` are what came in the launch and what came after it, with the intervals that the character rests on.
    """

    bands: list[Band]
    character: Character | None
    parted_at: float | None
    halves: tuple[Band, Band] | None = None


@dataclass(frozen=True)
class Checks:
    """A trend within the day, and which runs (0..n-1, before first) are far from their group."""

    trend: Trend | None
    outliers: list[int]


@dataclass(frozen=True)
class Several:
    """How many comparisons were made at once, and the p value of this one corrected for their number (Holm)."""

    count: int
    p_value: float


@dataclass(frozen=True, eq=False)
class Comparison:
    """What a comparison found. Differences are after minus before; `difference` is adjusted where that was asked."""

    measure: Measure
    clock: Clock
    quantity: Quantity
    groups: Groups
    asked: Asked
    known: Known
    before: Sample | None
    after: Sample | None
    unadjusted: Weighed | None
    adjusted: Weighed | None
    adjustment: Adjustment | None
    permutation: Permutation | None
    detectable_difference: float | None
    verdict: Verdict
    like: Likeness
    went: WhereItWent
    checks: Checks
    several: Several | None = None

    @property
    def bands(self) -> list[Band]:
        """The unadjusted difference by bands; they add up to it."""
        return self.went.bands

    @property
    def weighed(self) -> Weighed | None:
        """Adjusted where that was asked and could be done, else unadjusted."""
        return self.adjusted or self.unadjusted

    @property
    def difference(self) -> Difference | None:
        """The difference that the verdict rests on."""
        return self.weighed.difference if self.weighed else None

    @property
    def character(self) -> str | None:
        """The name of the kind of difference."""
        return self.went.character.name if self.went.character else None

    @property
    def unit(self) -> str:
        """The SI unit of the values."""
        return UNITS[self.quantity]

    @property
    def confidence_better(self) -> float | None:
        """How probable it is that the true difference is a gain, by Student's t; None without a difference."""
        if self.difference is None:
            return None
        gain = self.difference.value * (-1 if smaller_is_better(self.quantity) else 1)
        return probability_positive(gain, self.difference.error, self.difference.dof)

    @property
    def better(self) -> bool | None:
        """Whether the sign of the difference is a gain; None where there is no difference to judge."""
        if self.difference is None or self.difference.value == 0:
            return None
        return (self.difference.value < 0) == smaller_is_better(self.quantity)


def smaller_is_better(quantity: Quantity) -> bool:
    """Less time and less distance are gains; so are more speed and more power."""
    return quantity in ("time", "distance")


def direction(found: Difference, quantity: Quantity) -> Verdict:
    """What the interval says by itself."""
    return sign_of(found, quantity) if found.shown else "no clear difference"


def graded(found: Difference, quantity: Quantity) -> Verdict:
    """Say what a difference is, or leans to, by its own interval."""
    if found.shown:
        return direction(found, quantity)
    return LEANS[sign_of(found, quantity)] if found.p_value < LEANING_P else "no clear difference"


def sign_of(found: Difference, quantity: Quantity) -> Verdict:
    """Which way the difference points, however sure it is."""
    less = found.value < 0
    if quantity == "distance":
        return "shorter" if less else "longer"
    return "faster" if less == (quantity == "time") else "slower"


def ramps_u95(groups: Groups) -> float:
    """What the torque ramps of both groups leave in doubt of their difference."""
    return math.hypot(*(group.common_u95 for group in groups))


@dataclass(frozen=True)
class BetweenReceivers:
    """By how much the second group's receiver says more than the first's; where nothing was learned, by about none."""

    more: Value
    names: tuple[str, str] | None = None


def between_receivers(groups: Groups, known: Known) -> BetweenReceivers | None:
    """What different receivers make of a difference; None where one was used in both groups, or none was noted."""
    used = [set(RECEIVER.counts(group.noted)) for group in groups]
    if not all(used) or used[0] & used[1]:
        return None
    values = [*groups[0].values, *groups[1].values]
    mean = abs(sum(values) / len(values))
    if len(used[0]) == len(used[1]) == 1:
        names = str(*used[0]), str(*used[1])
        if share := known.receivers.get(names):
            return BetweenReceivers(share.scaled(mean), names)
    return BetweenReceivers(Value(0.0, COVERAGE_95 * RECEIVERS_SHARE * mean))
