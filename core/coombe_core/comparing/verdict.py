"""Two groups of one measure: the difference with all that its interval carries, and the verdict."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from coombe_core.comparing.adjusting import Adjustment, adjust
from coombe_core.comparing.breakdown import Passed
from coombe_core.comparing.character import character
from coombe_core.comparing.comparison import (
    LEANS,
    Asked,
    Checks,
    Comparison,
    Group,
    Groups,
    Known,
    Likeness,
    Quantity,
    Several,
    Verdict,
    Weighed,
    WhereItWent,
    between_receivers,
    direction,
    graded,
    ramps_u95,
    sign_of,
    smaller_is_better,
)
from coombe_core.comparing.differences import Explained, condition_differences, explained, separating
from coombe_core.comparing.factors import BATTERY, CHARGE, DENSITY, HOUR, WIND, Factor
from coombe_core.comparing.factors import known as noted
from coombe_core.comparing.matching import matched
from coombe_core.comparing.sensitivity import Sensitivity, assumed
from coombe_core.comparing.statistics.checks import outliers, trend
from coombe_core.comparing.statistics.contrast import Contrast, Part, contrast, rounding_step
from coombe_core.comparing.statistics.interval import Difference, difference, shared_part
from coombe_core.comparing.statistics.layout import layout_of
from coombe_core.comparing.statistics.multiple import holm
from coombe_core.comparing.statistics.permutation import permutation
from coombe_core.comparing.statistics.power import ALPHA, detectable_difference
from coombe_core.comparing.statistics.samples import sample
from coombe_core.comparing.statistics.scatter import (
    ASSUMED,
    ASSUMED_FADE_SHARE,
    NOTED_DAY_SHARE,
    Assumed,
    assumed_scatter,
)
from coombe_core.timing.clocks import Clock
from coombe_core.timing.measures import Measure

MUCH_ALIKE = 0.25  # of a factor's band


def compare(
    measure: Measure,
    clock: Clock,
    before: Group,
    after: Group,
    quantity: Quantity = "time",
    known: Known | None = None,
    asked: Asked | None = None,
) -> Comparison:
    """Compare two groups of runs in one measure.

    Parameters
    ----------
    measure : Measure
    clock : {"first_movement", "rollout", "speed"}
    before, after : Group
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
    groups = _matched(before, after) if asked.match else (before, after)
    unadjusted = weigh(groups, known, beforehand=_beforehand(measure, groups))
    adjustment = _adjustment(groups, unadjusted, known, asked)
    adjusted = None
    if adjustment and adjustment.taken:
        adjusted = weigh(groups, known, adjustment, _beforehand(measure, groups, adjustment.taken))
    weighed = adjusted or unadjusted
    like = _likeness(groups, measure, quantity, known, adjustment, weighed)
    word = _verdict(weighed, quantity, like.explained)
    samples = [sample(group.values, smaller_is_better(quantity)) if len(group.values) else None for group in groups]
    return Comparison(
        measure=measure,
        clock=clock,
        quantity=quantity,
        groups=groups,
        asked=asked,
        known=known,
        before=samples[0],
        after=samples[1],
        unadjusted=unadjusted,
        adjusted=adjusted,
        adjustment=adjustment,
        permutation=permutation(weighed.values, weighed.layout) if weighed else None,
        detectable_difference=_detectable(weighed) if weighed else None,
        verdict=word,
        like=like,
        went=_where(groups, measure, quantity, unadjusted, word),
        checks=_checks(groups, weighed),
    )


def _detectable(weighed: Weighed) -> float:
    """What such runs call different with 80 % power."""
    deciding = weighed.under_twice or weighed.difference
    return detectable_difference(deciding.error, deciding.dof)


def corrected_for_number(pairs: Sequence[Comparison]) -> list[Comparison]:
    """Correct comparisons that were made at once for their number.

    With several looks one of them shows by chance more easily: a difference whose corrected p is above 5 % is not
    clear, whatever its own interval says.

    Parameters
    ----------
    pairs : sequence of Comparison
        Of several groups, each against the first.

    Returns
    -------
    list of Comparison
        The same where there is only one.

    References
    ----------
    Holm (1979), A simple sequentially rejective multiple test procedure.
    """
    if len(pairs) < 2:
        return list(pairs)
    chances = holm([pair.difference.p_value if pair.difference else 1.0 for pair in pairs])
    return [_of_several(pair, Several(len(pairs), p_value)) for pair, p_value in zip(pairs, chances, strict=True)]


def _of_several(pair: Comparison, several: Several) -> Comparison:
    if pair.difference is None or not pair.difference.shown or several.p_value <= ALPHA:
        return replace(pair, several=several)
    return replace(pair, several=several, verdict="no clear difference", went=replace(pair.went, character=None))


def _matched(before: Group, after: Group) -> Groups:
    kept = matched(before.noted, after.noted)
    return before.only(kept[0]), after.only(kept[1])


def _beforehand(measure: Measure, groups: Groups, adjusted: Collection[str] = ()) -> Assumed:
    """How far days and one run from the next are taken to differ, where these runs do not say."""
    if measure.basis == "stop":
        return Assumed(drift_share=ASSUMED_FADE_SHARE)
    if not (groups[0].noted and groups[1].noted):
        return ASSUMED
    states = [*groups[0].noted, *groups[1].noted]
    if not all(len(noted(factor, states)) == len(states) for factor in (CHARGE, BATTERY, DENSITY, WIND)):
        return ASSUMED
    alike = all(factor.name in adjusted or _much_alike(factor, groups) for factor in (CHARGE, BATTERY))
    return Assumed(NOTED_DAY_SHARE) if alike else ASSUMED


def _much_alike(factor: Factor, groups: Groups) -> bool:
    before, after = (float(np.mean(noted(factor, group.noted))) for group in groups)
    return abs(after - before) <= MUCH_ALIKE * factor.band


def weigh(
    groups: Groups, known: Known, adjustment: Adjustment | None = None, beforehand: Assumed = ASSUMED
) -> Weighed | None:
    """Work out the difference of two groups with all that its interval carries.

    Parameters
    ----------
    groups : (Group, Group)
    known : Known
    adjustment : Adjustment, optional
    beforehand : Assumed
        How far days and one run from the next are taken to differ, where these runs do not say.

    Returns
    -------
    Weighed or None
        None where nothing says how values scatter.
    """
    values = adjustment.values if adjustment else np.array([*groups[0].values, *groups[1].values], dtype=np.float64)
    receivers = between_receivers(groups, known)
    if receivers:
        values = values - np.array([0.0] * len(groups[0].values) + [receivers.more.value] * len(groups[1].values))
    if any(len(group.values) == 1 and not group.states for group in groups):
        return None  # a single value from elsewhere: the scatter of no car that is known here is its own
    states = [*groups[0].noted, *groups[1].noted]
    after = [False] * len(groups[0].noted) + [True] * len(groups[1].noted)
    layout = layout_of(
        [state.day for state in states],
        [state.direction for state in states],
        after,
        [state.hour for state in states],
    )
    scatter = known.scatter or assumed_scatter(abs(float(values.mean()))) if values.size else None
    step = rounding_step(np.array([*groups[0].values, *groups[1].values]))
    fitted = adjustment.fitted if adjustment else 0
    made = contrast(values, layout, scatter, fitted, step=step, beforehand=beforehand)
    if made is None:
        return None
    common_u95 = math.hypot(ramps_u95(groups), receivers.more.u95 if receivers else 0.0)
    parts = [*made.parts, shared_part(common_u95), *(adjustment.parts(made) if adjustment else ())]
    value = made.of(values)
    half, twice = [_under(share, value, parts, made) if made.day_assumed else None for share in (0.5, 2.0)]
    more = None
    if layout.kind == "days":
        more = difference(value, [*made.with_one_more_day(layout), *parts[len(made.parts) :]])
    return Weighed(values, layout, made, difference(value, parts), half, twice, more)


def _under(share: float, value: float, parts: Sequence[Part], made: Contrast) -> Difference:
    """What it would be with a share of the assumed scatter from day to day."""
    return difference(value, [Part(share**2 * part.variance, part.dof) if part is made.day else part for part in parts])


def _adjustment(groups: Groups, unadjusted: Weighed | None, known: Known, asked: Asked) -> Adjustment | None:
    if unadjusted is None or not asked.adjust:
        return None
    noted = groups[0].noted, groups[1].noted
    return adjust(unadjusted.values, [*noted[0], *noted[1]], noted, known.sensitivities, sorted(asked.adjust))


def _likeness(
    groups: Groups,
    measure: Measure,
    quantity: Quantity,
    known: Known,
    adjustment: Adjustment | None,
    weighed: Weighed | None,
) -> Likeness:
    values = [*groups[0].values, *groups[1].values]
    typical = float(np.mean(values)) if values else 0.0

    def about(factor: Factor) -> Sensitivity | None:
        return known.sensitivities.of(factor.name) or assumed(factor, typical, measure, quantity)

    noted = groups[0].noted, groups[1].noted
    taken = adjustment.taken if adjustment else ()
    rows = condition_differences(noted[0], noted[1], about, taken, weighed.contrast if weighed else None)
    return Likeness(rows, separating(*noted), explained(rows))


def _verdict(weighed: Weighed | None, quantity: Quantity, unlike: Explained) -> Verdict:
    if weighed is None:
        return "too few runs"
    found = weighed.difference
    if unlike.names and direction(found, quantity) != direction(found.shifted(-unlike.high, -unlike.low), quantity):
        return "not comparable"
    hidden = max(abs(unlike.low), abs(unlike.high))
    if not found.shown and hidden > (found.high95 - found.low95) / 2:
        return "not comparable"  # what these runs could hide is more than what they could show
    return _graded(weighed, quantity)


def _graded(weighed: Weighed, quantity: Quantity) -> Verdict:
    """Clear, leaning or neither; what rests on an assumed scatter from day to day is clear only under twice of it."""
    found, word = weighed.difference, graded(weighed.difference, quantity)
    if found.shown and weighed.under_twice and not weighed.under_twice.shown:
        return LEANS[sign_of(found, quantity)]
    return word


def _where(
    groups: Groups, measure: Measure, quantity: Quantity, unadjusted: Weighed | None, word: Verdict
) -> WhereItWent:
    if unadjusted is None or quantity != "time" or measure.basis == "stop" or not (groups[0].edges and groups[1].edges):
        return WhereItWent([], None, None)
    common_u95 = ramps_u95(groups)
    basis: Literal["speed", "distance"] = "distance" if measure.basis == "distance" else "speed"
    whole = Passed.of(basis, [*groups[0].edges, *groups[1].edges], unadjusted.layout, unadjusted.contrast, common_u95)
    by_speed = Passed.of(
        "speed", [*groups[0].speed_edges, *groups[1].speed_edges], unadjusted.layout, unadjusted.contrast, common_u95
    )
    telling = by_speed or whole
    if telling is None or word not in ("faster", "slower"):
        return WhereItWent(whole.bands() if whole else [], None, None)
    kind = character(telling.bands())
    halves = telling.halves(kind.until) if kind else None
    return WhereItWent(whole.bands() if whole else [], kind, telling.parted_at(), halves)


def _checks(groups: Groups, weighed: Weighed | None) -> Checks:
    if weighed is None:
        return Checks(None, [])
    hours = [HOUR.of(state) for group in groups for state in group.noted]
    known = [hour for hour in hours if hour is not None]
    drift = trend(weighed.values, np.array(known), weighed.layout) if len(known) == len(hours) else None
    return Checks(drift, outliers(weighed.values, weighed.layout))
