"""A comparison in words: one sentence, then the reasons, the weightiest first."""

from __future__ import annotations

from coombe_core.comparing.breakdown import Band
from coombe_core.comparing.character import Name
from coombe_core.comparing.comparison import (
    LEANS,
    BetweenReceivers,
    Comparison,
    Group,
    Several,
    Verdict,
    between_receivers,
    direction,
    graded,
    ramps_u95,
    smaller_is_better,
)
from coombe_core.comparing.factors import BATTERY, CHARGE, known
from coombe_core.comparing.statistics.interval import Difference
from coombe_core.comparing.statistics.power import ALPHA
from coombe_core.comparing.statistics.scatter import ASSUMED_DAY_SHARE
from coombe_core.timing.clocks import Clock
from coombe_core.units import FOOT_M
from coombe_core.wording.adjustment import refusal
from coombe_core.wording.quantities import both_units, capitalized, signed, speed
from coombe_core.wording.sources import row_source, scatter_source, sensitivity_source

CHARACTERS: dict[Name, str] = {
    "launch": "it comes mostly from the launch",
    "power": "it comes mostly from power",
    "top end": "it comes mostly from power at the top end",
    "mixed": "launch and power both have a part",
}
CLOCK_WORDS: dict[Clock, str] = {"first_movement": "first movement", "rollout": "rollout", "speed": "speed to speed"}


def sentence_of(found: Comparison) -> str:
    """Say measure, clock, size, interval and verdict, in that order."""
    power = "Peak power, " if found.quantity == "peak_power" else ""
    what = f"{power}{found.measure.name} ({CLOCK_WORDS[found.clock]})"
    result, shown = found.difference, found.detectable_difference
    if result is None or shown is None:
        counts = " and ".join(str(len(group.values)) for group in found.groups)
        return f"{what}: {counts} runs are too few. Record at least two per group, better five."
    digits = _digits(result)
    size = f"{both_units(abs(result.value), found.unit, digits)} ± {both_units(_half(result), found.unit, digits)}"
    like = ", adjusted for conditions" if found.adjusted else ""
    if found.verdict == "not comparable":
        word = direction(result, found.quantity)
        difference = word if word == "no clear difference" else _is(found, word, size)
        return f"{what}: {difference}, but conditions differ enough to account for it. Not comparable."
    if found.verdict in LEANS.values():
        return f"{what}: {_is(found, found.verdict, size)}{like}. {_not_yet(found, shown)}."
    if found.verdict == "no clear difference":
        clear = "Not statistically clear"
        if found.several and result.shown:
            word = direction(result, found.quantity)
            return f"{what}: {_is(found, word, size)}{like}. {clear}: {_corrected(found.several)}."
        return (
            f"{what}: no clear difference{like}: {signed(result.value, digits)} {found.unit} ± "
            f"{_half(result):.{digits}f} {found.unit}. {clear}; a difference of {shown:.2f} {found.unit} would "
            "probably have shown."
        )
    return f"{what}: {_is(found, found.verdict, size)}{like}. Statistically clear."


def _is(found: Comparison, word: Verdict, size: str) -> str:
    """What the second group is, or leans to, and by how much."""
    leans = word in LEANS.values()
    if found.quantity == "peak_power" and found.difference:
        amount = "more" if found.difference.value > 0 else "less"
        return f"{_subject(found)} {'leans to' if leans else 'has'} {size} {amount}"
    return f"{_subject(found)} {'' if leans else 'is '}{word} by {size}"


def _not_yet(found: Comparison, shown: float) -> str:
    """Why a difference only leans."""
    weighed = found.weighed
    if weighed and weighed.under_twice and weighed.difference.shown:
        half = both_units(_half(weighed.under_twice), found.unit, 2)
        return f"Clear only if days differ by no more than is assumed; under twice of that it would be ± {half}"
    return f"Not statistically clear yet; a difference of {shown:.2f} {found.unit} would probably have shown"


def _subject(found: Comparison) -> str:
    """The second group's name, as a sentence begins with it."""
    return capitalized(_names(found)[1])


def _corrected(several: Several) -> str:
    return f"corrected for {several.count} comparisons at once, {_p(several.p_value)} (Holm)"


def _names(found: Comparison) -> tuple[str, str]:
    return found.groups[0].name or "before", found.groups[1].name or "after"


def _digits(result: Difference) -> int:
    """Enough for the interval not to read as nothing."""
    return 2 if _half(result) >= 0.01 else 3


def _half(result: Difference) -> float:
    return (result.high95 - result.low95) / 2


def reasons_of(found: Comparison) -> list[str]:
    """Say why the verdict is what it is, and what remains open."""
    return [
        *_several(found),
        *_matched(found),
        *_unlike(found),
        *_adjusted(found),
        *_matters(found),
        *_tested(found),
        *_permuted(found),
        *_clear(found),
        *_character(found),
        *_looked_at(found),
        *_inseparable(found),
        *_unknown(found),
    ]


def _several(found: Comparison) -> list[str]:
    if found.several is None:
        return []
    return [f"With several comparisons one is clear by chance more easily; {_corrected(found.several)}."]


def _matched(found: Comparison) -> list[str]:
    if not found.asked.match:
        return []
    counts = " and ".join(str(len(group.values)) for group in found.groups)
    return [f"Matched: {counts} runs have one of the other group within {CHARGE.band:.0f} points of charge."]


def _unlike(found: Comparison) -> list[str]:
    """What differs by more than its band, and how much of the difference that could account for."""
    reasons = []
    for row in found.like.rows:
        if not row.differs or row.adjusted or row.before is None or row.after is None:
            continue
        sides = ", ".join(
            f"{both_units(mean, row.unit, row.digits)} {name}"
            for mean, name in zip((row.before, row.after), _names(found), strict=True)
        )
        sentence = f"{row.name.capitalize()} differs ({sides})"
        if row.effect is not None and found.difference is not None:
            sentence += (
                f"; it could account for {signed(row.effect.value, 2)} {found.unit} ± {row.effect.u95:.2f} {found.unit}"
            )
            sentence += f" of the {signed(found.difference.value, 2)} {found.unit} ({row_source(row)})"
        reasons.append((row.effect is None, f"{sentence}."))
    return [sentence for _, sentence in sorted(reasons, key=lambda each: each[0])]


def _adjusted(found: Comparison) -> list[str]:
    if found.adjustment is None:
        return []
    reasons = []
    if found.adjusted and found.unadjusted:
        for name, removed in found.adjustment.removed(found.adjusted.contrast).items():
            row = found.adjustment.sensitivities.of(name)
            source = f" ({sensitivity_source(row)})" if row else ""
            reasons.append(f"Adjusted for {name}: {signed(-removed, 3)} {found.unit}{source}.")
        unadjusted = found.unadjusted.difference
        reasons.append(
            f"Unadjusted: {signed(unadjusted.value, 3)} {found.unit} ± {_half(unadjusted):.3f} {found.unit}."
        )
    return [*reasons, *map(refusal, found.adjustment.refused)]


def _matters(found: Comparison) -> list[str]:
    """Against the smallest difference that would matter."""
    least, result = found.asked.difference_that_matters, found.difference
    if least is None or result is None:
        return []
    size = f"{least:.2f} {found.unit}"
    if max(abs(result.low95), abs(result.high95)) < least:
        return [f"The whole interval is below the {size} that would matter."]
    if result.low95 > least or result.high95 < -least:
        return [f"The whole interval is above the {size} that would matter."]
    return [f"The interval includes the {size} that would matter: more runs are needed to decide."]


def _tested(found: Comparison) -> list[str]:
    weighed, result = found.weighed, found.difference
    if weighed is None or result is None:
        return []
    test = f"{_p(result.p_value)}, {result.dof:.1f} degrees of freedom"
    reasons = []
    if min(len(group.values) for group in found.groups) == 1 and found.known.scatter:
        reasons.append(f"A single run in a group: the scatter of a run is {scatter_source(found.known.scatter)}.")
    if weighed.layout.kind == "plain":
        reasons.append(f"Student's t test: {test}.")
    elif weighed.layout.kind == "within":
        reasons.append(f"Compared within days and directions by least squares: {test}.")
    else:
        reasons += [f"{_days(found)}: {test}.", *_under_other_days(found), *_one_more_day(found)]
    if common_u95 := ramps_u95(found.groups):
        reasons.append(
            f"The interval includes ± {common_u95:.3f} s for the torque ramps, which more runs do not reduce."
        )
    if receivers := between_receivers(found.groups, found.known):
        reasons.append(_receivers(receivers, found.unit))
    return reasons


def _receivers(between: BetweenReceivers, unit: str) -> str:
    if between.names is None:
        return f"The interval includes ± {between.more.u95:.3f} {unit} for different GPS receivers, assumed."
    first, second = between.names
    size = f"{signed(between.more.value, 3)} ± {between.more.u95:.3f} {unit}"
    return f"On passes that both saw, {second} shows {size} beside {first}: taken out of the difference."


def _days(found: Comparison) -> str:
    weighed, scatter = found.weighed, found.known.scatter
    assert weighed is not None and weighed.contrast.day_sd is not None
    days = [len({state.day for state in group.noted}) for group in found.groups]
    unknown = [name for name, group in zip(_names(found), found.groups, strict=True) if not _all_days(group)]
    own = scatter is not None and not scatter.day_assumed
    share = weighed.contrast.beforehand.day_share
    why_less = ", charge, battery temperature and weather being noted" if share < ASSUMED_DAY_SHARE else ""
    source = f"{100 * share:g} % assumed{why_less}" + (
        f", weighed with {scatter_source(scatter)}" if own and scatter else ""
    )
    if unknown:
        why = f"The day is not known for all runs of {' and '.join(unknown)}, which may be another day"
    else:
        why = f"The groups were driven on different days ({days[0]} and {days[1]}), so days are what is repeated"
    return f"{why}; the interval includes {weighed.contrast.day_sd:.3f} {found.unit} from day to day ({source})"


def _under_other_days(found: Comparison) -> list[str]:
    """What the verdict would be if days differed by other than is assumed, and what would settle it."""
    weighed = found.weighed
    if weighed is None or weighed.under_half is None or weighed.under_twice is None:
        return []
    half, twice = (
        f"{graded(under, found.quantity)}, ± {_half(under):.{_digits(under)}f} {found.unit}"
        for under in (weighed.under_half, weighed.under_twice)
    )
    return [
        f"If days differed by half of that: {half}; by twice as much: {twice}. Both groups in turn on one day would "
        "settle it."
    ]


def _one_more_day(found: Comparison) -> list[str]:
    """What another day of each group would probably make of the interval."""
    weighed = found.weighed
    if weighed is None or weighed.one_more_day is None or not all(_all_days(group) for group in found.groups):
        return []
    now, then = (f"± {_half(each):.{_digits(each)}f}" for each in (weighed.difference, weighed.one_more_day))
    if now == then:
        return []
    bring = f"{now} {found.unit} to {then} {found.unit}"
    return [f"One more day of each group, with as many runs, would probably bring {bring}."]


def _all_days(group: Group) -> bool:
    return all(state.day for state in group.noted)


def _permuted(found: Comparison) -> list[str]:
    relabeled = found.permutation
    if relabeled is None:
        return []
    kind = "every relabeling" if relabeled.exact else "9,999 seeded relabelings"
    reasons = [f"Permutation test ({kind}): {_p(relabeled.p_value)}."]
    if relabeled.lowest > ALPHA:
        counts = " and ".join(str(len(group.values)) for group in found.groups)
        reasons.append(
            f"With {counts} runs the permutation test cannot go below {relabeled.lowest:.2f}; "
            "one more run per group lets it confirm."
        )
    return reasons


def _clear(found: Comparison) -> list[str]:
    small, names = smaller_is_better(found.quantity), _names(found)
    before, after = found.groups
    if found.adjusted or min(len(before.values), len(after.values)) < 2:
        return []
    if _beats(after, before, small):
        return [f"Every {names[1]} run beats the best {names[0]} run."]
    return [f"Every {names[0]} run beats the best {names[1]} run."] if _beats(before, after, small) else []


def _beats(ahead: Group, behind: Group, small: bool) -> bool:
    return max(ahead.values) < min(behind.values) if small else min(ahead.values) > max(behind.values)


def _character(found: Comparison) -> list[str]:
    kind, halves = found.went.character, found.went.halves
    if kind is None:
        return []
    if halves is None:
        return [f"{capitalized(CHARACTERS[kind.name])}."]
    place = f"{kind.until / FOOT_M:.0f} ft ({kind.until:.0f} m)" if kind.by_distance else speed(kind.until)
    launch, rest = map(_with_interval, halves)
    return [f"{launch} by {place} and {rest} after it: {CHARACTERS[kind.name]}."]


def _with_interval(band: Band) -> str:
    """Seconds gained in a band, as surely as they are known."""
    if band.low95 is None or band.high95 is None:
        return f"{signed(band.difference_s, 2)} s"
    half = (band.high95 - band.low95) / 2
    digits = 2 if half >= 0.01 else 3
    return f"{signed(band.difference_s, digits)} s ± {half:.{digits}f} s"


def _looked_at(found: Comparison) -> list[str]:
    reasons = []
    if (trend := found.checks.trend) and trend.shown:
        reasons.append(
            f"Within the day the values change by {signed(trend.per_hour, 3)} {found.unit} an hour "
            f"({_p(trend.p_value)}): heat or charge, most likely."
        )
    if found.checks.outliers:
        count = len(found.checks.outliers)
        runs = "1 run is" if count == 1 else f"{count} runs are"
        reasons.append(f"{runs} far from the others of the group; check the run sheet before you keep or void.")
    return reasons


def _inseparable(found: Comparison) -> list[str]:
    differing = found.like.separating
    if len(differing) < 2:
        return []
    named = ", ".join(differing[:-1]) + f" and {differing[-1]}"
    return [f"The groups differ in {named} throughout; which of them made the difference can't be separated."]


def _unknown(found: Comparison) -> list[str]:
    reasons = []
    for factor in (CHARGE, BATTERY):
        runs = sum(len(group.values) for group in found.groups)
        missing = runs - sum(len(known(factor, group.noted)) for group in found.groups)
        if missing and runs:
            reasons.append(f"{factor.name.capitalize()} was not recorded for {missing} of {runs} runs.")
    return reasons


def _p(value: float) -> str:
    return "p under 0.001" if value < 0.001 else f"p = {value:.3f}"
