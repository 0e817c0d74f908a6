"""Two arms of one measure: the verdict, as a word, a sentence, a number with its interval, and the reasons."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from coombe_core.comparing.bands import Band, Character, EdgeTimes, bands, character
from coombe_core.comparing.likeness import Likeness
from coombe_core.comparing.statistics import (
    ALPHA,
    Permutation,
    Sample,
    Welch,
    permutation,
    sample,
    smallest_shown,
    welch,
)
from coombe_core.timing.measure import Clock, Measure

Quantity = Literal["time", "distance", "line_speed", "trap_speed"]
Verdict = Literal["faster", "slower", "shorter", "longer", "no difference shown", "too few runs", "not comparable"]
UNITS: dict[Quantity, str] = {"time": "s", "distance": "m", "line_speed": "m/s", "trap_speed": "m/s"}
CHARACTER_REASONS: dict[Character, str] = {
    "launch": "Most of the difference lies below 50 km/h (31 mph)",
    "power": "Most of the difference lies between 50 and 130 km/h (31 and 81 mph)",
    "top end": "Most of the difference lies above 130 km/h (81 mph)",
    "mixed": "No stretch of speed holds most of the difference",
}
DISTANCE_REASONS: dict[Character, str] = {
    "launch": "Most of the difference is there by 330 ft",
    "power": "Most of the difference grows after 330 ft",
    "mixed": "Neither the first 330 ft nor the rest hold most of the difference",
}
CHARACTER_WORDS: dict[Character, str] = {
    "launch": "it comes from the launch, not from power",
    "power": "it comes from power, not from the launch",
    "top end": "it comes from power at the top end",
    "mixed": "launch and power both have a part",
}
CLOCK_WORDS: dict[Clock, str] = {"first_movement": "first movement", "rollout": "rollout", "speed": "speed to speed"}


@dataclass(frozen=True)
class Arm:
    """One arm's values, in SI units, the edge times of its runs where there are traces, and what all values share.

    `common_u95` is the half-width of the 95 % interval of an error that is the same for every value of the arm.
    """

    values: Sequence[float]
    edges: Sequence[EdgeTimes] = ()
    common_u95: float = 0.0


@dataclass(frozen=True)
class Comparison:
    """What a comparison found. Differences are after minus before."""

    measure: Measure
    clock: Clock
    quantity: Quantity
    before: Sample | None
    after: Sample | None
    difference: Welch | None
    permutation: Permutation | None
    smallest_shown: float | None
    verdict: Verdict
    sentence: str
    reasons: list[str]
    bands: list[Band]
    character: Character | None

    @property
    def unit(self) -> str:
        """The SI unit of the values."""
        return UNITS[self.quantity]

    @property
    def better(self) -> bool | None:
        """Whether the sign of the difference is a gain; None where there is no difference to judge."""
        if self.difference is None or self.difference.value == 0:
            return None
        return (self.difference.value < 0) == smaller_is_better(self.quantity)


def smaller_is_better(quantity: Quantity) -> bool:
    """Less time and less distance are gains; so is more speed."""
    return quantity in ("time", "distance")


def compare(
    measure: Measure,
    clock: Clock,
    before: Arm,
    after: Arm,
    quantity: Quantity = "time",
    alike: Likeness | None = None,
) -> Comparison:
    """Compare two arms. Whatever `alike` says differs beyond its band makes them not comparable."""
    alike = alike or Likeness([], [])
    small = smaller_is_better(quantity)
    samples = [sample(arm.values, small) if len(arm.values) else None for arm in (before, after)]
    enough = min(len(before.values), len(after.values)) >= 2
    common_u95 = math.hypot(before.common_u95, after.common_u95)
    difference = welch(before.values, after.values, common_u95) if enough else None
    relabelled = permutation(before.values, after.values) if enough else None
    shown = smallest_shown(before.values, after.values, common_u95) if enough else None
    word = _verdict(difference, quantity, bool(alike.differing))
    parts = bands(measure, before.edges, after.edges) if before.edges and after.edges and quantity == "time" else []
    kind = character(parts) if word in ("faster", "slower") else None
    found = _reasons(before, after, quantity, difference, relabelled)
    reasons = [*alike.differing, *found, *_told(kind, measure), *alike.unknown]
    return Comparison(
        measure,
        clock,
        quantity,
        samples[0],
        samples[1],
        difference,
        relabelled,
        shown,
        word,
        _sentence(measure, clock, quantity, samples, difference, shown, word),
        reasons,
        parts,
        kind,
    )


def _verdict(difference: Welch | None, quantity: Quantity, unbalanced: bool) -> Verdict:
    if difference is None:
        return "too few runs"
    if unbalanced:
        return "not comparable"
    if difference.low95 <= 0 <= difference.high95:
        return "no difference shown"
    less = difference.value < 0
    if quantity == "distance":
        return "shorter" if less else "longer"
    return "faster" if less == (quantity == "time") else "slower"


def _sentence(
    measure: Measure,
    clock: Clock,
    quantity: Quantity,
    samples: Sequence[Sample | None],
    difference: Welch | None,
    shown: float | None,
    word: Verdict,
) -> str:
    what = f"{measure.name} ({CLOCK_WORDS[clock]})"
    if difference is None or shown is None:
        counts = " and ".join(str(arm.n if arm else 0) for arm in samples)
        return f"{what}: {counts} runs are too few to tell; record at least two an arm, better five."
    unit = UNITS[quantity]
    half = (difference.high95 - difference.low95) / 2
    size = f"{abs(difference.value):.2f} {unit} ± {half:.2f}"
    direction = _verdict(difference, quantity, False)
    if word == "not comparable":
        told = (
            f"the after runs are {direction} by {size}" if direction != "no difference shown" else "no difference shows"
        )
        return f"{what}: {told}, but the arms were not run alike, so these runs can't tell what made it."
    if word == "no difference shown":
        return (
            f"{what}: these runs can't tell. The difference is {difference.value:+.2f} {unit} ± {half:.2f}; "
            f"a difference of {shown:.2f} {unit} would probably have shown."
        )
    return f"{what}: {word} by {size}, and it is real: zero lies outside the 95 % interval."


def _reasons(
    before: Arm, after: Arm, quantity: Quantity, difference: Welch | None, relabelled: Permutation | None
) -> list[str]:
    if difference is None or relabelled is None:
        return []
    reasons = [f"Welch's t test: {_p(difference.p_value)}, {difference.degrees:.1f} degrees of freedom."]
    kind = "every relabelling" if relabelled.exact else "9,999 seeded relabellings"
    if common_u95 := math.hypot(before.common_u95, after.common_u95):
        reasons.append(f"The interval carries ± {common_u95:.3f} s for the torque ramps; more runs do not lessen it.")
    reasons.append(f"Permutation test ({kind}): {_p(relabelled.p_value)}.")
    if relabelled.lowest > ALPHA:
        reasons.append(
            f"With {len(before.values)} and {len(after.values)} runs the permutation test cannot go below "
            f"{relabelled.lowest:.2f}; one more run an arm lets it confirm."
        )
    small = smaller_is_better(quantity)
    if _clear(after.values, before.values, small):
        reasons.append("Every after run beats the best before run.")
    elif _clear(before.values, after.values, small):
        reasons.append("Every before run beats the best after run.")
    return reasons


def _told(kind: Character | None, measure: Measure) -> list[str]:
    if kind is None:
        return []
    reasons = DISTANCE_REASONS if measure.basis == "distance" else CHARACTER_REASONS
    return [f"{reasons[kind]}: {CHARACTER_WORDS[kind]}."]


def _clear(ahead: Sequence[float], behind: Sequence[float], small: bool) -> bool:
    return max(ahead) < min(behind) if small else min(ahead) > max(behind)


def _p(value: float) -> str:
    return "p under 0.001" if value < 0.001 else f"p = {value:.3f}"
