"""Values of two groups brought to common conditions, with the uncertainty that this adds, or why it is refused."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from coombe_core.comparing.factors import ADJUSTABLE, SLOPE, Factor, known
from coombe_core.comparing.sensitivity import Sensitivities, Sensitivity
from coombe_core.comparing.state import State
from coombe_core.comparing.statistics.contrast import Contrast, Part
from coombe_core.comparing.statistics.layout import Floats
from coombe_core.uncertainty import COVERAGE_95

REFERENCES = {"slope": 0.0, "air density": 1.225, "head wind": 0.0}


@dataclass(frozen=True)
class Refusal:
    """Why a factor could not be adjusted for.

    It was not recorded for `missing` of `runs` runs, its sensitivity is unknown, or the groups' `means` are outside
    what the car's runs cover, `low` to `high`.
    """

    factor: Factor
    reason: Literal["not recorded", "sensitivity unknown", "outside"]
    missing: int = 0
    runs: int = 0
    means: tuple[float, ...] = ()
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, eq=False)
class Adjustment:
    """Adjusted values (n), what each factor took out of every run (n), and what was refused and why."""

    values: Floats
    taken: dict[str, Floats]
    states: Sequence[State]
    refused: list[Refusal]
    sensitivities: Sensitivities

    @property
    def fitted(self) -> int:
        """How many of the factors were learned from runs like these."""
        kinds = [row.kind for name in self.taken if (row := self.sensitivities.of(name))]
        return kinds.count("learned")

    def parts(self, contrast: Contrast) -> list[Part]:
        """The doubt of the adjustment in a difference: of sensitivities, and of a slope survey that groups share."""
        shifts = {name: contrast.of(_column(ADJUSTABLE[name], self.states)) for name in self.taken}
        rows = {name: row for name in self.taken if (row := self.sensitivities.of(name))}
        own = {name: shifts[name] for name, row in rows.items() if row.kind == "learned"}
        parts = [Part((shifts[name] * row.error) ** 2, math.inf) for name, row in rows.items() if row.kind == "physics"]
        if own:
            parts.append(Part(self.sensitivities.variance(own), min(rows[name].dof for name in own)))
        if SLOPE.name in self.taken:
            parts.append(Part(_survey_variance(contrast, self.states, rows[SLOPE.name].per_unit), math.inf))
        return parts

    def removed(self, contrast: Contrast) -> dict[str, float]:
        """What each factor took out of the difference."""
        return {name: contrast.of(taken) for name, taken in self.taken.items()}


def adjust(
    values: Floats,
    states: Sequence[State],
    groups: Sequence[Sequence[State]],
    about: Sensitivities,
    wanted: Collection[str],
) -> Adjustment:
    """Bring values to common conditions: the mean charge and heat of all runs, level, standard air, calm.

    Parameters
    ----------
    values : array of float, shape (n,)
        Before first.
    states : sequence of State, length n
    groups : sequence of sequences of State
        The same by group.
    about : Sensitivities
    wanted : collection of str
        Names of factors.

    Returns
    -------
    Adjustment
        With a refusal for what was not recorded for every run, has no known sensitivity, or is outside what the
        runs cover.
    """
    taken: dict[str, Floats] = {}
    refused: list[Refusal] = []
    for name in wanted:
        factor, row = ADJUSTABLE[name], about.of(name)
        reason = _refusal(factor, row, groups)
        if reason:
            refused.append(reason)
        elif row is not None:
            column = _column(factor, states)
            taken[name] = row.per_unit * (column - REFERENCES.get(name, float(column.mean())))
    adjusted = values - sum(taken.values()) if taken else values.copy()
    return Adjustment(np.asarray(adjusted, dtype=np.float64), taken, states, refused, about)


def _refusal(factor: Factor, row: Sensitivity | None, groups: Sequence[Sequence[State]]) -> Refusal | None:
    runs = sum(map(len, groups))
    missing = runs - sum(len(known(factor, group)) for group in groups)
    if missing:
        return Refusal(factor, "not recorded", missing=missing, runs=runs)
    if row is None or row.kind == "assumed":
        return Refusal(factor, "sensitivity unknown")
    means = tuple(sum(known(factor, group)) / len(group) for group in groups if group)
    if not all(row.covers(mean) for mean in means):
        return Refusal(factor, "outside", means=means, low=row.low, high=row.high)
    return None


def _column(factor: Factor, states: Sequence[State]) -> Floats:
    return np.array([factor.of(state) or 0.0 for state in states], dtype=np.float64)


def _survey_variance(contrast: Contrast, states: Sequence[State], per_percent: float) -> float:
    """A survey's error is the same for every run over it, with its sign turned for those that came back."""
    total = 0.0
    for survey in {state.slope_survey for state in states} - {""}:
        over = [state.slope_survey == survey for state in states]
        signs = np.array(
            [0.0 if not on else -1.0 if s.direction == "back" else 1.0 for on, s in zip(over, states, strict=True)]
        )
        u95 = max(state.slope_u95_percent or 0.0 for state, on in zip(states, over, strict=True) if on)
        total += (contrast.of(signs) * per_percent * u95 / COVERAGE_95) ** 2
    return total
