"""What the trials show, as rows of tables with their targets: errors, finds, characters, adjustments."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.comparing.comparison import Asked, Comparison, Known
from coombe_core.simulating.many import Floats, Launches, launch_all
from coombe_core.timing.measures import Measure, parse_measure
from coombe_core.validation.method.seasons import Season
from coombe_core.validation.method.trials import (
    Case,
    Driven,
    compared,
    drive,
    interleaved,
    on_days,
    scatter,
    sensitivities,
    typical_curves,
    with_sweep,
)

SIXTY, TWO_HUNDRED = parse_measure("0-60 mph"), parse_measure("0-200 km/h")
FEWEST, MOST = 3, 8
FIELDS = {"launch": ("grip",), "power": ("power_w",), "top end": ("far_up",), "both": ("grip", "power_w")}
NAMED_ON = {"launch": SIXTY, "power": SIXTY, "top end": TWO_HUNDRED}
LARGEST_CHANGE = 1.0
Kind = Callable[[Season, np.random.Generator, int], Case]
DIFFERENT = ("faster", "slower")


@dataclass(frozen=True)
class Line:
    """One result: what was tried, how many cases, the share found, and the least and most that are asked for."""

    what: str
    cases: int
    share: float
    least: float = 0.0
    most: float = 1.0
    remark: str = ""

    @property
    def holds(self) -> bool:
        """Whether the target is met."""
        return self.least <= self.share <= self.most


def _cases(kind: Kind, count: int, draw: np.random.Generator) -> tuple[Season, list[Case]]:
    season = Season()
    return season, [kind(season, draw, int(draw.integers(FEWEST, MOST + 1))) for _ in range(count)]


KINDS: dict[str, Kind] = {
    "interleaved within days": interleaved,
    "different days, the car's history known": on_days,
    "different days, nothing known": lambda season, draw, runs: on_days(season, draw, runs, False),
}


def errors(count: int, seed: int) -> list[Line]:
    """Pairs of groups between which nothing was changed: how many are called different."""
    lines = []
    for number, (name, kind) in enumerate(KINDS.items()):
        draw = np.random.default_rng([seed, 1, number])
        season, cases = _cases(kind, count, draw)
        driven = drive(season, SIXTY, draw)
        words = Counter(str(compared(case, driven, SIXTY).verdict) for case in cases)
        wrong = sum(words[word] for word in DIFFERENT)
        lines.append(Line(name, count, wrong / count, most=0.065, remark=_words(words)))
    return lines


def _words(words: Counter[str]) -> str:
    return ", ".join(f"{count} {word}" for word, count in words.most_common())


def finds(count: int, seed: int) -> list[Line]:
    """Changes of grip and power of 1.5 times what the design shows: how many are found."""
    lines = []
    for number, (name, kind) in enumerate(KINDS.items()):
        draw = np.random.default_rng([seed, 2, number])
        results = _changed(kind, count, draw, SIXTY, "both", 1.5)
        words = Counter(str(result.verdict) for result in results)
        lines.append(Line(name, len(results), words["faster"] / len(results), least=0.9, remark=_words(words)))
    return lines


def characters(count: int, seed: int) -> list[Line]:
    """Changes of three times what the design shows: how many get their right name."""
    lines: list[Line] = []
    for number, (name, measure) in enumerate(NAMED_ON.items()):
        for design in ("interleaved within days", "different days, the car's history known"):
            draw = np.random.default_rng([seed, 3, number, len(lines)])
            results = _changed(KINDS[design], count, draw, measure, name, 3.0)
            words = Counter(str(result.character) for result in results)
            what = f"{name}, {measure.name}, {design}"
            lines.append(Line(what, len(results), words[name] / len(results), least=0.9, remark=_words(words)))
    return lines


def _changed(
    kind: Kind, count: int, draw: np.random.Generator, measure: Measure, what: str, times: float
) -> list[Comparison]:
    """Cases whose after group was changed by a number of times what such a design shows on average.

    Cars that no such change could make that much quicker are left out.
    """
    season, cases = _cases(kind, count, draw)
    unchanged = drive(season, measure, draw)
    shown: dict[str, list[float]] = defaultdict(list)
    for case in cases:
        found = compared(case, unchanged, measure).detectable_difference
        shown[case.design].append((found or 0.0) / float(unchanged.read_s[case.runs].mean()))
    shares = np.array([times * float(np.sqrt(np.mean(np.square(shown[case.design])))) for case in cases])
    gains, reached = _gains(unchanged.launches.of(np.array([case.runs[0] for case in cases])), measure, what, shares)
    driven = drive(season, measure, draw, lambda launches: _with_gains(launches, cases, FIELDS[what], gains))
    return [compared(case, driven, measure) for case, able in zip(cases, reached, strict=True) if able]


def _gains(firsts: Launches, measure: Measure, what: str, shares: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """By how much to raise power or grip so that the time falls by those shares; and whether it can."""
    before = _time(firsts, measure)
    gains, falls = np.full(shares.size, 0.03), shares
    for _ in range(6):
        raised = {name: getattr(firsts, name) * (1.0 + gains) for name in FIELDS[what]}
        falls = 1.0 - _time(firsts.changed(**raised), measure) / before
        gains = np.clip(gains * shares / np.maximum(falls, 1e-4), 0.0, LARGEST_CHANGE)
    return gains, np.abs(falls / shares - 1.0) < 0.05


def _time(launches: Launches, measure: Measure) -> Floats:
    passings, _ = launch_all(launches, measure.to_mps)
    return np.asarray(passings.time_s(measure.to_mps) - passings.rollout_s())


def _with_gains(launches: Launches, cases: Sequence[Case], names: Sequence[str], gains: Floats) -> Launches:
    factor = np.ones(launches.grip.size)
    for case, gain in zip(cases, gains, strict=True):
        factor[np.array(case.runs)[np.array(case.after)]] = 1.0 + gain
    return launches.changed(**{name: getattr(launches, name) * factor for name in names})


def adjustments(count: int, seed: int) -> list[Line]:
    """Groups of different charge, and a small true change: what adjusting takes out, and whether its interval holds."""
    draw = np.random.default_rng([seed, 4])
    lines = []
    for name, wanted in (("charge", {"charge"}), ("all", {"charge", "slope", "head wind", "air density"})):
        season, cases = _cases(with_sweep, count, draw)
        made = _adjusted(season, cases, frozenset(wanted), draw)
        lines.append(
            Line(
                f"share of the charge's effect that is taken out, adjusting for {name}",
                count,
                made.removed,
                least=0.8,
                most=1.2,
                remark=f"case by case {made.apart:.2f} of it is left or overdone on average",
            )
        )
        lines.append(
            Line(
                f"interval holds the truth, adjusted for {name}",
                made.done,
                made.held,
                0.92,
                0.98,
                f"half-width {1000 * made.half_s:.0f} ms",
            )
        )
    season, cases = _cases(lambda s, d, runs: on_days(s, d, runs, False, charge=d.uniform(62, 80)), count, draw)
    without = _adjusted(season, cases, frozenset({"charge"}), draw)
    lines.append(
        Line(
            "without a sweep: adjusting refused",
            count,
            1.0 - without.done / count,
            least=0.0,
            remark=f"called different {without.wrong} times",
        )
    )
    return lines


@dataclass(frozen=True)
class Adjusted:
    """Means over the cases that could be adjusted, and how many of all were called different."""

    done: int
    removed: float
    apart: float
    held: float
    half_s: float
    wrong: int


def _adjusted(season: Season, cases: list[Case], wanted: frozenset[str], draw: np.random.Generator) -> Adjusted:
    gains = draw.normal(0.0, 0.01, len(cases))
    driven = drive(season, SIXTY, draw, lambda launches: _with_gains(launches, cases, FIELDS["power"], gains))
    curves = typical_curves(cases, driven, SIXTY)
    truth, confound = _truths(cases, driven, gains)
    removed, held, halves, wrong = [], [], [], 0
    for case, curve, true_s, by_charge_s in zip(cases, curves, truth, confound, strict=True):
        known = Known(scatter(case, driven), sensitivities(case, driven, SIXTY, curve))
        found = compared(case, driven, SIXTY, known, Asked(wanted))
        wrong += found.verdict in DIFFERENT
        if found.adjusted is None or found.adjustment is None or "charge" not in found.adjustment.taken:
            continue
        interval = found.adjusted.difference
        removed.append(found.adjustment.removed(found.adjusted.contrast)["charge"] / by_charge_s)
        held.append(interval.low95 <= true_s <= interval.high95)
        halves.append((interval.high95 - interval.low95) / 2)
    if not removed:
        return Adjusted(0, 0.0, 0.0, 0.0, 0.0, wrong)
    apart = float(np.abs(np.array(removed) - 1.0).mean())
    return Adjusted(len(held), float(np.mean(removed)), apart, float(np.mean(held)), float(np.mean(halves)), wrong)


def _truths(cases: Sequence[Case], driven: Driven, gains: Floats) -> tuple[Floats, Floats]:
    """The true difference at the groups' mean charge, and what their charges alone make; level, without scatter."""
    firsts = driven.launches.of(np.array([case.runs[0] for case in cases]))
    size = len(cases)
    level = firsts.changed(
        grip=np.array([case.who.grip for case in cases]),
        battery_temp_c=np.full(size, 46.0),
        slope_percent=np.zeros(size),
        head_wind_mps=np.zeros(size),
    )
    power = np.array([case.who.power_w for case in cases])
    charges = np.array([[_mean_charge(case, driven, group) for group in (False, True)] for case in cases])

    def time(charge: Floats, by: Floats) -> Floats:
        return _time(level.changed(charge_percent=charge, power_w=power * (1.0 + by)), SIXTY)

    middle, none = charges.mean(axis=1), np.zeros(size)
    return time(middle, gains) - time(middle, none), time(charges[:, 1], gains) - time(charges[:, 0], gains)


def _mean_charge(case: Case, driven: Driven, group: bool) -> float:
    runs = np.array(case.runs)[np.array(case.after) == group]
    return float(driven.launches.charge_percent[runs].mean())
