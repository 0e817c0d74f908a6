"""Differences in conditions: what was noted of two groups side by side, and how much it could account for."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.comparing.factors import (
    CHOSEN,
    DIRECTION,
    FACTORS,
    KINDS,
    OF_THE_SETUP,
    SLOPE,
    Factor,
    Kind,
    known,
)
from coombe_core.comparing.sensitivity import Sensitivity
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.contrast import Contrast
from coombe_core.uncertainty import COVERAGE_95, Value

UNEVEN = 0.34  # shares of one direction in two groups that are further apart than this are not alike


@dataclass(frozen=True)
class Row:
    """One factor in both groups: means and how many runs they rest on, or words and how often each was noted.

    `effect` is how much of the difference it would make, in the measure's unit; None where nothing shows it.
    """

    name: str
    unit: str
    digits: int
    before: float | None
    after: float | None
    noted: tuple[int, int]
    words: tuple[dict[str, int], dict[str, int]] | None
    differs: bool
    effect: Value | None
    sensitivity: Sensitivity | None
    adjusted: bool = False


def condition_differences(
    before: Sequence[State],
    after: Sequence[State],
    about: Callable[[Factor], Sensitivity | None],
    adjusted: Collection[str] = (),
    contrast: Contrast | None = None,
) -> list[Row]:
    """Put the conditions of both groups side by side.

    How far the groups are apart is weighed like their values, so that what a design cancels does not count.

    Parameters
    ----------
    before, after : sequence of State
        What was recorded about the runs of each group.
    about : callable
        How the measure changes with a factor; None where that is not known.
    adjusted : collection of str
        Factors that were adjusted for.
    contrast : Contrast, optional
        The values' weights.

    Returns
    -------
    list of Row
        Every factor that was recorded of any run.
    """
    rows = [_number_row(factor, before, after, about(factor), adjusted, contrast) for factor in FACTORS]
    return [row for row in (*rows, *(_word_row(kind, before, after) for kind in KINDS)) if row is not None]


def _number_row(
    factor: Factor,
    before: Sequence[State],
    after: Sequence[State],
    sensitivity: Sensitivity | None,
    adjusted: Collection[str],
    contrast: Contrast | None,
) -> Row | None:
    numbers = [known(factor, group) for group in (before, after)]
    if not any(numbers):
        return None
    means = [sum(group) / len(group) if group else None for group in numbers]
    counts = (len(numbers[0]), len(numbers[1]))
    effect = None
    apart = _apart_by(factor, before, after, means, contrast)
    unsure = _unsure(factor, before, after)
    if sensitivity is not None and apart is not None:
        half = math.hypot(COVERAGE_95 * sensitivity.error * apart, sensitivity.per_unit * unsure)
        effect = Value(sensitivity.per_unit * apart, half)
    differs = apart is not None and abs(apart) > max(factor.band, unsure)
    done = factor.name in adjusted
    return Row(
        factor.name, factor.unit, factor.digits, means[0], means[1], counts, None, differs, effect, sensitivity, done
    )


def _apart_by(
    factor: Factor,
    before: Sequence[State],
    after: Sequence[State],
    means: Sequence[float | None],
    contrast: Contrast | None,
) -> float | None:
    """After minus before, weighed like the values where the factor was noted of every run."""
    if means[0] is None or means[1] is None:
        return None
    column = [*known(factor, before), *known(factor, after)]
    if contrast is None or len(column) < len(before) + len(after):
        return means[1] - means[0]
    return contrast.of(np.array(column))


def _unsure(factor: Factor, before: Sequence[State], after: Sequence[State]) -> float:
    """How far apart two groups' slopes may look where each run has its own; nothing for what is read or surveyed."""
    if factor is not SLOPE:
        return 0.0
    parts = [
        sum((state.slope_u95_percent or 0.0) ** 2 for state in group if not state.slope_survey) / len(group) ** 2
        for group in (before, after)
        if group
    ]
    return math.sqrt(sum(parts))


def _word_row(kind: Kind, before: Sequence[State], after: Sequence[State]) -> Row | None:
    words = kind.counts(before), kind.counts(after)
    if not any(words):
        return None
    counts = sum(words[0].values()), sum(words[1].values())
    if kind is DIRECTION:
        differs = all(counts) and any(
            abs(words[0].get(way, 0) / counts[0] - words[1].get(way, 0) / counts[1]) > UNEVEN
            for way in {*words[0], *words[1]}
        )
        return Row(kind.name, "", 0, None, None, counts, words, bool(differs), None, None)
    return Row(kind.name, "", 0, None, None, counts, words, all(counts) and set(words[0]) != set(words[1]), None, None)


def separating(before: Sequence[State], after: Sequence[State]) -> list[str]:
    """Find what goes with the groups throughout.

    Parameters
    ----------
    before, after : sequence of State
        What was recorded about the runs of each group.

    Returns
    -------
    list of str
        Words that no run of the other group shares, and what setups differ in.
    """
    found = [kind.name for kind in CHOSEN if _apart(kind.counts(before), kind.counts(after))]
    for factor in OF_THE_SETUP:
        one, other = known(factor, before), known(factor, after)
        if one and other and (max(one) + factor.band < min(other) or max(other) + factor.band < min(one)):
            found.append(factor.name)
    return found


def _apart(one: dict[str, int], other: dict[str, int]) -> bool:
    return bool(one) and bool(other) and not set(one) & set(other)


@dataclass(frozen=True)
class Explained:
    """What unlike conditions might have added to a difference: from `low` to `high`, by the named factors."""

    low: float
    high: float
    names: tuple[str, ...]


def explained(rows: Sequence[Row]) -> Explained:
    """Add up what differs, is not adjusted for, and whose effect is known or assumed."""
    counting = [(row, row.effect) for row in rows if row.differs and not row.adjusted and row.effect is not None]
    low = sum(effect.value - effect.u95 for _, effect in counting)
    high = sum(effect.value + effect.u95 for _, effect in counting)
    return Explained(low, high, tuple(row.name for row, _ in counting))
