"""Like with like: all that was noted of two arms side by side, what differs, and how much that might explain."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

from coombe_core.comparing.factors import (
    CHOSEN,
    DIRECTION,
    FACTORS,
    KINDS,
    OF_THE_SET_UP,
    OUTSIDE,
    Factor,
    Kind,
    known,
)
from coombe_core.comparing.sensitivity import Sensitivity
from coombe_core.comparing.state import State
from coombe_core.timing.estimate import COVERAGE_95, Value

UNEVEN = 0.34  # shares of one direction in two arms that lie further apart than this are not alike


@dataclass(frozen=True)
class Row:
    """One factor in both arms: means and how many runs they rest on, or words and how often each was noted.

    `effect` is how much of the difference it would make, in the measure's unit; None where nothing tells.
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
    source: str
    adjusted: bool = False

    @property
    def apart(self) -> float | None:
        """After minus before."""
        return None if self.before is None or self.after is None else self.after - self.before


def balance(
    before: Sequence[State],
    after: Sequence[State],
    about: Callable[[Factor], Sensitivity | None],
    adjusted: Collection[str] = (),
) -> list[Row]:
    """Every factor that was noted of any run. `about` tells how the measure changes with one."""
    rows = [_number_row(factor, before, after, about(factor), adjusted) for factor in FACTORS]
    return [row for row in (*rows, *(_word_row(kind, before, after) for kind in KINDS)) if row is not None]


def _number_row(
    factor: Factor, before: Sequence[State], after: Sequence[State], told: Sensitivity | None, adjusted: Collection[str]
) -> Row | None:
    numbers = [known(factor, arm) for arm in (before, after)]
    if not any(numbers):
        return None
    means = [sum(arm) / len(arm) if arm else None for arm in numbers]
    apart = None if means[0] is None or means[1] is None else means[1] - means[0]
    effect, source = None, "acts through air density" if factor is OUTSIDE else ""
    if told is not None and apart is not None:
        effect = Value(told.per_unit * apart, COVERAGE_95 * told.error * abs(apart))
        source = told.source
    counts = (len(numbers[0]), len(numbers[1]))
    differs = apart is not None and abs(apart) > factor.band
    done = factor.name in adjusted
    return Row(factor.name, factor.unit, factor.digits, means[0], means[1], counts, None, differs, effect, source, done)


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
        return Row(kind.name, "", 0, None, None, counts, words, bool(differs), None, "acts through slope and head wind")
    return Row(kind.name, "", 0, None, None, counts, words, all(counts) and set(words[0]) != set(words[1]), None, "")


def separating(before: Sequence[State], after: Sequence[State]) -> list[str]:
    """What goes with the arms throughout: words that no run of the other arm shares, and what set-ups differ in."""
    found = [kind.name for kind in CHOSEN if _apart(kind.counts(before), kind.counts(after))]
    for factor in OF_THE_SET_UP:
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
    """The sum over what differs, is not adjusted for, and whose effect is known or assumed."""
    counting = [(row, row.effect) for row in rows if row.differs and not row.adjusted and row.effect is not None]
    low = sum(effect.value - effect.u95 for _, effect in counting)
    high = sum(effect.value + effect.u95 for _, effect in counting)
    return Explained(low, high, tuple(row.name for row, _ in counting))
