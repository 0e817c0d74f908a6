"""Two arms of one measure: the difference with all that its interval carries, and the verdict."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from coombe_core.comparing.adjusting import Adjustment, adjust
from coombe_core.comparing.breakdown import Passed
from coombe_core.comparing.character import character
from coombe_core.comparing.comparison import (
    Arm,
    Arms,
    Asked,
    Checks,
    Comparison,
    Known,
    Likeness,
    Quantity,
    Verdict,
    Weighed,
    WhereItWent,
    direction,
    ramps_u95,
    receivers_u95,
    smaller_is_better,
)
from coombe_core.comparing.differences import Explained, balance, explained, separating
from coombe_core.comparing.factors import HOUR, Factor
from coombe_core.comparing.matching import matched
from coombe_core.comparing.sensitivity import Sensitivity, assumed
from coombe_core.comparing.statistics.checks import outliers, trend
from coombe_core.comparing.statistics.contrast import contrast
from coombe_core.comparing.statistics.interval import Difference, difference, shared_part
from coombe_core.comparing.statistics.layout import layout_of
from coombe_core.comparing.statistics.permutation import permutation
from coombe_core.comparing.statistics.power import detectable_difference
from coombe_core.comparing.statistics.samples import sample
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure


def compare(
    measure: Measure,
    clock: Clock,
    before: Arm,
    after: Arm,
    quantity: Quantity = "time",
    known: Known | None = None,
    asked: Asked | None = None,
) -> Comparison:
    """Compare two groups of runs in one measure.

    Parameters
    ----------
    measure : Measure
    clock : {"first_movement", "rollout", "speed"}
    before, after : Arm
        Values with what was recorded about each run.
    quantity : {"time", "distance", "line_speed", "trap_speed"}
    known : Known, optional
        The car's scatter, and how the measure changes with conditions.
    asked : Asked, optional
        What to adjust for, and the smallest difference that matters.

    Returns
    -------
    Comparison
        Conditions that differ beyond their band and could account for the difference make the groups not
        comparable.
    """
    known, asked = known or Known(), asked or Asked()
    arms = _matched(before, after) if asked.match else (before, after)
    raw = weigh(arms, known)
    adjustment = _adjustment(arms, raw, known, asked)
    adjusted = weigh(arms, known, adjustment) if adjustment and adjustment.taken else None
    weighed = adjusted or raw
    like = _likeness(arms, measure, quantity, known, adjustment, weighed)
    word = _verdict(weighed.difference if weighed else None, quantity, like.explained)
    samples = [sample(arm.values, smaller_is_better(quantity)) if len(arm.values) else None for arm in arms]
    return Comparison(
        measure=measure,
        clock=clock,
        quantity=quantity,
        arms=arms,
        asked=asked,
        known=known,
        before=samples[0],
        after=samples[1],
        raw=raw,
        adjusted=adjusted,
        adjustment=adjustment,
        permutation=permutation(weighed.values, weighed.layout, weighed.contrast.weights) if weighed else None,
        smallest_shown=detectable_difference(weighed.difference.error, weighed.difference.degrees) if weighed else None,
        verdict=word,
        like=like,
        went=_where(arms, measure, quantity, raw, word),
        checks=_checks(arms, weighed),
    )


def _matched(before: Arm, after: Arm) -> Arms:
    kept = matched(before.noted, after.noted)
    return before.only(kept[0]), after.only(kept[1])


def weigh(arms: Arms, known: Known, adjustment: Adjustment | None = None) -> Weighed | None:
    """Work out the difference of two groups with all that its interval carries.

    Parameters
    ----------
    arms : (Arm, Arm)
    known : Known
    adjustment : Adjustment, optional

    Returns
    -------
    Weighed or None
        None where nothing says how values scatter.
    """
    values = adjustment.values if adjustment else np.array([*arms[0].values, *arms[1].values], dtype=np.float64)
    if any(len(arm.values) == 1 and not arm.states for arm in arms):
        return None  # a single value from elsewhere: the scatter of no car that is known here is its own
    states = [*arms[0].noted, *arms[1].noted]
    after = [False] * len(arms[0].noted) + [True] * len(arms[1].noted)
    layout = layout_of([state.day for state in states], [state.direction for state in states], after)
    made = contrast(values, layout, known.scatter, adjustment.fitted if adjustment else 0)
    if made is None:
        return None
    common_u95 = math.hypot(ramps_u95(arms), receivers_u95(arms))
    parts = [*made.parts, shared_part(common_u95), *(adjustment.parts(made) if adjustment else ())]
    return Weighed(values, layout, made, difference(made.of(values), parts))


def _adjustment(arms: Arms, raw: Weighed | None, known: Known, asked: Asked) -> Adjustment | None:
    if raw is None or not asked.adjust:
        return None
    noted = arms[0].noted, arms[1].noted
    return adjust(raw.values, [*noted[0], *noted[1]], noted, known.sensitivities, sorted(asked.adjust))


def _likeness(
    arms: Arms,
    measure: Measure,
    quantity: Quantity,
    known: Known,
    adjustment: Adjustment | None,
    weighed: Weighed | None,
) -> Likeness:
    values = [*arms[0].values, *arms[1].values]
    typical = float(np.mean(values)) if values else 0.0

    def about(factor: Factor) -> Sensitivity | None:
        return known.sensitivities.of(factor.name) or assumed(factor, typical, measure, quantity)

    noted = arms[0].noted, arms[1].noted
    taken = adjustment.taken if adjustment else ()
    rows = balance(noted[0], noted[1], about, taken, weighed.contrast if weighed else None)
    return Likeness(rows, separating(*noted), explained(rows))


def _verdict(found: Difference | None, quantity: Quantity, unlike: Explained) -> Verdict:
    if found is None:
        return "too few runs"
    if unlike.names and direction(found, quantity) != direction(found.shifted(-unlike.high, -unlike.low), quantity):
        return "not comparable"
    hidden = max(abs(unlike.low), abs(unlike.high))
    if not found.shown and hidden > (found.high95 - found.low95) / 2:
        return "not comparable"  # what these runs could hide is more than what they could show
    return direction(found, quantity)


def _where(arms: Arms, measure: Measure, quantity: Quantity, raw: Weighed | None, word: Verdict) -> WhereItWent:
    if raw is None or quantity != "time" or measure.basis == "stop" or not (arms[0].edges and arms[1].edges):
        return WhereItWent([], None, None)
    common_u95 = ramps_u95(arms)
    basis: Literal["speed", "distance"] = "distance" if measure.basis == "distance" else "speed"
    whole = Passed.of(basis, [*arms[0].edges, *arms[1].edges], raw.layout, raw.contrast, common_u95)
    by_speed = Passed.of("speed", [*arms[0].speed_edges, *arms[1].speed_edges], raw.layout, raw.contrast, common_u95)
    telling = by_speed or whole
    if telling is None or word not in ("faster", "slower"):
        return WhereItWent(whole.bands() if whole else [], None, None)
    return WhereItWent(whole.bands() if whole else [], character(telling.bands()), telling.parted_at())


def _checks(arms: Arms, weighed: Weighed | None) -> Checks:
    if weighed is None:
        return Checks(None, [])
    hours = [HOUR.of(state) for arm in arms for state in arm.noted]
    known = [hour for hour in hours if hour is not None]
    drift = trend(weighed.values, np.array(known), weighed.layout) if len(known) == len(hours) else None
    return Checks(drift, outliers(weighed.values, weighed.layout))
