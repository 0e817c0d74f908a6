"""The charge-and-heat timetable of a test day: what to do when, worked back from the first run.

Every instant carries an interval: parameters are drawn from what was learned of them, with the spread from one day to
the next, and the plan is worked out for each draw (GUM Supplement 1, JCGM 101:2008).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from coombe_core.learned import Learned
from coombe_core.physics.battery.charge import ChargeCurve
from coombe_core.physics.battery.heat import BatteryHeat, minutes_until, temperature_after
from coombe_core.planning.day import (
    KINDS,
    Caution,
    Day,
    Ranged,
    Remedy,
    Shortfall,
    Step,
    StepKind,
    Timetable,
)

Floats = NDArray[np.float64]
DRAWS = 4000
SEARCH_DRAWS = 400
SEED = 41
SURE = 0.975
SEARCH_MIN = 15
SEARCH_STEPS = 48
SHORT_MIN = 20
LONGEST_MIN = 48 * 60.0
EVEN = 0.5
TOLERANCE = 1e-6
# A battery is heated from its surface, where its temperature is read; once heating ends the reading falls towards the
# core within some eight minutes, by what up to so many minutes of heating had brought (an estimate, for cells of usual
# thickness).
SETTLING_MIN, SETTLES_IN_MIN = 0.7, 8.0


@dataclass(frozen=True, eq=False)
class _Draws:
    """One plausible car a draw."""

    tau_min: Floats
    rate: Floats
    share: Floats
    settling_min: Floats


def timetable(day: Day, heat: BatteryHeat, curve: ChargeCurve) -> Timetable:
    """Work a test day back from its first run, with remedies where the plan can't be met.

    Parameters
    ----------
    day : Day
    heat : BatteryHeat
        How the battery cools and is heated.
    curve : ChargeCurve
        How it charges.

    Returns
    -------
    Timetable

    References
    ----------
    JCGM 101:2008, for propagating distributions by drawing from them.
    """
    made = _worked_back(day, heat, curve)
    return made if made.met else replace(made, remedies=_remedies(day, heat, curve))


def _worked_back(day: Day, heat: BatteryHeat, curve: ChargeCurve, count: int = DRAWS) -> Timetable:
    draws = _drawn(heat, curve.share, count)
    state = _state(day, draws, curve)
    window = day.window
    open_min = np.where(
        state.first_c >= window.low_temp_c,
        minutes_until(window.low_temp_c, state.first_c, day.outside_temp_c, draws.tau_min),
        0.0,
    )
    holds = {
        "warm": state.first_c >= window.low_temp_c - TOLERANCE,
        "cool": state.first_c <= window.high_temp_c + TOLERANCE,
        "charged": state.first_percent >= window.low_charge_percent - TOLERANCE,
        "open": open_min >= day.runs_min,
    }
    return Timetable(
        _steps(day, state, open_min),
        _ranged(state.first_c),
        _ranged(state.first_percent),
        _ranged(open_min),
        float(np.mean(np.logical_and.reduce(list(holds.values())))),
        [_shortfall(name, day, draws, state, open_min) for name, each in holds.items() if np.mean(each) < EVEN],
        [],
        _cautions(day, heat, curve),
        heat.loss_per_min,
        heat.heating_k_per_min,
        curve.share,
    )


def _drawn(heat: BatteryHeat, share: Learned, count: int) -> _Draws:
    draw = np.random.default_rng(SEED)
    loss, rate, arriving = (
        _plausible(each, draw, count) for each in (heat.loss_per_min, heat.heating_k_per_min, share)
    )
    return _Draws(1.0 / loss, rate, arriving, draw.uniform(0.0, SETTLING_MIN, count))


def _plausible(learned: Learned, draw: np.random.Generator, count: int) -> Floats:
    """Values for the next day: positive, with the parameter's error and its spread from day to day."""
    drawn = draw.normal(learned.value, learned.next_sd, count)
    return np.asarray(np.maximum(drawn, 0.05 * learned.value))


@dataclass(frozen=True, eq=False)
class _State:
    """What a day comes to, a value a draw: minutes of heating and charging, and the state at the first run."""

    goal_c: float
    heating_min: Floats
    charging_min: Floats
    first_c: Floats
    first_percent: Floats


def _state(day: Day, draws: _Draws, curve: ChargeCurve) -> _State:
    total = max(_minutes(day.known_at, day.heated_until), 0.0)
    rested = temperature_after(total, day.battery_temp_c, day.outside_temp_c, draws.tau_min)
    at_most = temperature_after(total, day.battery_temp_c, day.outside_temp_c, draws.tau_min, draws.rate)
    goal = _goal_c(day, draws)
    heating = _heating_min(rested, goal, draws)
    reached = np.maximum(np.minimum(at_most, goal), rested)
    first = temperature_after(day.unheated_min, reached, day.outside_temp_c, draws.tau_min)
    first -= _settled(day.unheated_min, np.minimum(heating, total), draws)
    charging, percent = _charged(day, curve, draws, np.minimum(heating, total))
    return _State(goal, heating, charging, first, percent)


def _goal_c(day: Day, draws: _Draws) -> float:
    """What to heat the battery to: as warm as the window allows at the first run, no warmer than the car heats."""
    kept = float(np.quantile(np.exp(-day.unheated_min / draws.tau_min), SURE))
    hottest = (day.window.high_temp_c - day.outside_temp_c) / kept + day.outside_temp_c
    return min(hottest, day.hottest_c)


def _settled(unheated_min: float, heating_min: Floats, draws: _Draws) -> Floats:
    """By how much a reading falls after heating, beside what the battery loses."""
    both = np.exp(-unheated_min / SETTLES_IN_MIN), np.exp(-heating_min / SETTLES_IN_MIN)
    return np.asarray(draws.rate * draws.settling_min * (1.0 - both[0]) * (1.0 - both[1]))


def _heating_min(rested_c: Floats, goal_c: float, draws: _Draws) -> Floats:
    """Minutes of heating that end at the goal; inf where it is out of reach.

    The battery rests until heating starts, so T(end) = rested + rate tau (1 - exp(-h / tau)), with `rested_c` what it
    would have been without heating; h follows in closed form.
    """
    share = (goal_c - rested_c) / (draws.rate * draws.tau_min)
    with np.errstate(divide="ignore", invalid="ignore"):
        minutes = -draws.tau_min * np.log1p(-share)
    return np.asarray(np.where(share <= 0, 0.0, np.where(share < 1, minutes, np.inf)))


def _climate_percent(day: Day, curve: ChargeCurve) -> float:
    """What climate control takes between leaving and the first run, in points of charge."""
    return 100.0 * day.climate_kw * (day.drive_min + day.prepare_min) / 60.0 / curve.battery_kwh


def _charged(day: Day, curve: ChargeCurve, draws: _Draws, heating_min: Floats) -> tuple[Floats, Floats]:
    """Minutes at the charger, the heater's share of its power included, and the charge at the first run."""
    away = day.drive_charge_percent + _climate_percent(day, curve)
    goal = min(day.window.high_charge_percent + away, 100.0)
    lossless_min, percent = curve.schedule(min(day.charge_percent, 100.0), day.charger_kw)
    for_heater = heating_min * day.heater_kw / day.charger_kw
    needed = np.interp(goal, percent, lossless_min) / draws.share if goal > day.charge_percent else 0.0
    available = max(_minutes(day.known_at, day.leave_at), 0.0)
    at_most = np.interp(np.maximum(available - for_heater, 0.0) * draws.share, lossless_min, percent)
    leaving = np.maximum(np.minimum(at_most, goal), day.charge_percent)
    return np.asarray(needed + for_heater), np.asarray(leaving - away)


def _minutes(since: datetime, until: datetime) -> float:
    return (until - since).total_seconds() / 60.0


def _ranged(values: Floats) -> Ranged:
    low, middle, high = np.quantile(values, [1 - SURE, 0.5, SURE], method="nearest")
    return Ranged(float(middle), float(low), float(high))


def _steps(day: Day, state: _State, open_min: Floats) -> list[Step]:
    """In the order of time. What we begin is set early enough for 39 days in 40; what happens carries its interval."""
    arrive = day.first_run_at - timedelta(minutes=day.prepare_min)
    steps = [
        Step("leave", day.leave_at, None, None),
        Step("arrive", arrive, None, None),
        Step("first run", day.first_run_at, None, None),
        Step("last run", day.first_run_at + timedelta(minutes=day.runs_min), None, None),
    ]
    if state.charging_min.max() > 0:
        steps.append(_begun("plug in", day, day.leave_at, state.charging_min))
    if state.heating_min.max() > 0:
        steps.append(_begun("start heating", day, day.heated_until, state.heating_min, state.goal_c))
    closes = _ranged(open_min)
    if 0 < closes.value < LONGEST_MIN:
        bounds = (closes.low95, closes.value, min(closes.high95, LONGEST_MIN))
        early, at, late = (_later(day.first_run_at, each) for each in bounds)
        steps.append(Step("window closes", at, early, late, day.window.low_temp_c))
    return sorted(steps, key=lambda step: (step.at, KINDS.index(step.kind)))


def _begun(kind: StepKind, day: Day, end: datetime, minutes: Floats, temp_c: float | None = None) -> Step:
    """A step that we begin so that it has ended in time, though not before now, with when it will have."""
    needed = _ranged(minutes)
    surely = needed.high95 if np.isfinite(needed.high95) else needed.value
    at = max(_later(end, -min(surely, LONGEST_MIN)), min(day.known_at, end))
    late = _later(at, needed.high95) if needed.high95 < LONGEST_MIN else None
    return Step(kind, at, _later(at, needed.low95) if late else None, late, temp_c)


def _later(instant: datetime, minutes: float) -> datetime:
    return instant + timedelta(minutes=minutes)


def _cautions(day: Day, heat: BatteryHeat, curve: ChargeCurve) -> list[Caution]:
    found = []
    if day.battery_temp_c > day.hottest_c:
        tau = heat.time_constant_min.value
        cooled = float(minutes_until(day.hottest_c, day.battery_temp_c, day.outside_temp_c, tau))
        until = _later(day.known_at, cooled) if cooled < LONGEST_MIN else None
        found.append(Caution("too warm to heat", day.hottest_c, until))
    if climate := _climate_percent(day, curve):
        found.append(Caution("climate control", climate))
    return found


def _shortfall(name: str, day: Day, draws: _Draws, state: _State, open_min: Floats) -> Shortfall:
    window, first = day.window, day.first_run_at
    if name == "charged":
        return Shortfall("charge", first, _ranged(state.first_percent).value, window.low_charge_percent)
    if name == "open":
        return Shortfall("open", first, _ranged(open_min).value, day.runs_min)
    reached = _ranged(state.first_c).value
    if name == "warm":
        return Shortfall("too cold", first, reached, window.low_temp_c)
    waited = minutes_until(window.high_temp_c, state.first_c, day.outside_temp_c, draws.tau_min)
    wait = _ranged(waited).value
    return Shortfall("too warm", first, reached, window.high_temp_c, _later(first, wait) if np.isfinite(wait) else None)


Tried = tuple[Remedy, Day]


def _remedies(day: Day, heat: BatteryHeat, curve: ChargeCurve) -> list[tuple[Remedy, ...]]:
    """What would meet the plan, each tried by working it out: one change, or else a change of two things."""

    def first(tried: Iterable[Tried]) -> Remedy | None:
        return next((remedy for remedy, changed in tried if _worked_back(changed, heat, curve, SEARCH_DRAWS).met), None)

    shorter = _shorter(day, _worked_back(day, heat, curve).open_min.value)
    alone = (_later_starts(day), _earlier_starts(day), _charger_there(day), shorter)
    if found := [(remedy,) for tried in alone if (remedy := first(tried))]:
        return list(found)
    return [
        (remedy, other)
        for remedy, changed in (*_charger_there(day), *_fewer_runs(day))
        for tried in (_later_starts(changed), _earlier_starts(changed))
        if (other := first(tried))
    ]


def _later_starts(day: Day) -> Iterator[Tried]:
    for minutes in range(SEARCH_MIN, SEARCH_MIN * SEARCH_STEPS, SEARCH_MIN):
        later = replace(day, first_run_at=_later(day.first_run_at, minutes))
        yield Remedy("later first run", later.first_run_at, minutes), later


def _earlier_starts(day: Day) -> Iterator[Tried]:
    for minutes in range(SEARCH_MIN, SEARCH_MIN * SEARCH_STEPS, SEARCH_MIN):
        earlier = replace(day, known_at=_later(day.known_at, -minutes))
        yield Remedy("earlier start", earlier.known_at, minutes), earlier


def _charger_there(day: Day) -> list[Tried]:
    if day.course_charger_kw is not None:
        return []
    remedy = Remedy("charger at the course", power_kw=day.charger_kw)
    return [(remedy, replace(day, course_charger_kw=day.charger_kw))]


def _shorter(day: Day, open_min: float) -> list[Tried]:
    """Runs as long as the window more likely than not stays open."""
    minutes = float(np.floor(min(open_min, day.runs_min)))
    remedy = Remedy("first runs only", minutes=minutes)
    return [(remedy, replace(day, runs_min=minutes))] if SEARCH_MIN <= minutes < day.runs_min else []


def _fewer_runs(day: Day) -> list[Tried]:
    if day.runs_min <= SHORT_MIN:
        return []
    return [(Remedy("fewer runs", minutes=SHORT_MIN), replace(day, runs_min=SHORT_MIN))]
