"""Studies as sentences: what each answers, and what it can't be made of."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from coombe_core.comparing.comparison import Comparison
from coombe_core.comparing.differences import Row
from coombe_core.learned import Learned
from coombe_core.studies.braking import BrakingSeries
from coombe_core.studies.dashboard import Dashboard
from coombe_core.studies.energy import Energy
from coombe_core.studies.history import History
from coombe_core.studies.laps import Laps
from coombe_core.studies.levels import Level
from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import Agreement
from coombe_core.studies.repeatability import Repeatability
from coombe_core.studies.sweep import Apart, Sweep
from coombe_core.uncertainty import Value
from coombe_core.units import KMH_MPS, MPH_MPS
from coombe_core.wording.quantities import both_units, capitalized, counted, listed, signed, speed

HEATED_BY_K = (10.0, 30.0)
LACKING = {"missing": "Charge", "missing temperature": "Battery temperature"}


def problem(error: StudyError, of: str) -> str:
    """Say why a study of something (`sweep`, `braking series` …) can't be made, and what to do."""
    numbers = error.numbers
    match error.reason:
        case "too few":
            runs = counted(int(numbers["runs"]), "run")
            return f"{capitalized(of)} of {runs}: record at least {numbers['least']:.0f}."
        case "too few days":
            days = counted(int(numbers["days"]), "day")
            return f"{capitalized(of)} of {days}: it takes at least {numbers['least']:.0f}."
        case "too few levels":
            levels = counted(int(numbers["levels"]), "level")
            return f"{capitalized(of)} of {levels}: it takes at least two. Note on every run which one it was."
        case "one speed":
            return (
                f"All readings are between {speed(numbers['low'])} and {speed(numbers['high'])}: read the dashboard at "
                "other speeds too."
            )
        case "apart":
            return (
                f"One sweep ends at {numbers['high']:.0f} % and the other begins at {numbers['low']:.0f} %: they have "
                "no charge in common."
            )
        case "sign":
            return (
                f"A pull that puts {-numbers['energy_wh']:.0f} Wh into the battery: the CAN current has the wrong "
                "sign. Turn it round in the DBC file."
            )
        case "no lap":
            crossed = counted(int(numbers["crossings"]), "crossing")
            return f"No lap: the start line has {crossed} in this log. Move it to where the car passes every lap."
        case "one level":
            return (
                f"All runs are between {numbers['low']:.0f} and {numbers['high']:.0f} %: a {of} needs at least "
                f"{numbers['least']:.0f} points between its first and last."
            )
        case "missing" | "missing temperature":
            missing = f"{numbers['missing']:.0f} of {numbers['runs']:.0f} runs"
            return f"{LACKING[error.reason]} is missing for {missing}: note it for all of them."


def sweep_sentence(found: Sweep, unit: str = "s") -> str:
    """Say how a measure holds up, and whether it steps."""
    high, low = found.at[0], found.at[-1]
    held = f"From {high:.0f} to {low:.0f} % charge it changes by {_percent(found.lowest_to_highest)}"
    if found.step is None:
        return f"{held}; no step is shown."
    size = found.step.size
    return (
        f"{held}, with a step of {signed(size.value, 2)} {unit} ± {size.u95:.2f} {unit} at {found.step.at:.0f} % "
        f"(between {found.step.low:.0f} and {found.step.high:.0f} %)."
    )


def two_sweeps_sentence(first: str, second: str, found: Apart, unit: str = "s") -> str:
    """Say at which charges two sweeps differ."""
    clear = found.clear_at
    if not clear.size:
        return f"{second} and {first} do not clearly differ at any charge that both have."
    if clear.size == found.at.size:
        where = f"at every charge that both have, from {found.at.max():.0f} to {found.at.min():.0f} %"
    else:
        where = f"between {clear.max():.0f} and {clear.min():.0f} %"
    middle = float(np.median(found.difference[np.isin(found.at, clear)]))
    return f"{second} and {first} clearly differ {where}, by {signed(middle, 2)} {unit} in the middle of that."


def equal_sentence(name: str, level: float, other: str, top: float) -> str:
    """Say at which charge one sweep is as good as the other at its best."""
    return f"{name} at {level:.0f} % equals {other} at {top:.0f} %."


def per_kelvin_sentence(per_kelvin: Value) -> str:
    """Say what a kelvin of battery temperature is worth."""
    size = f"{signed(per_kelvin.value, 3)} s ± {per_kelvin.u95:.3f} s for each kelvin warmer"
    shown = abs(per_kelvin.value) > per_kelvin.u95
    return f"{size}{'' if shown else '; that may be none'}."


def heating_sentence(car: str, rate: Learned) -> str:
    """Say how long a battery is heated, from cold and after a drive."""
    minutes = ", ".join(f"{kelvin:.0f} K in {kelvin / rate.value:.0f} min" for kelvin in HEATED_BY_K)
    return f"{car} heats its battery by {rate.value:.2f} K ± {rate.u95:.2f} K a minute: {minutes}."


def gap_sentence(first: str, second: str, after_s: float, ahead_m: float, car_length_m: float) -> str:
    """Say who is ahead at the end, in meters and car lengths."""
    ahead, behind = (first, second) if ahead_m >= 0 else (second, first)
    lengths = abs(ahead_m) / car_length_m
    return (
        f"{after_s:.1f} s after full power {ahead} is {both_units(abs(ahead_m), 'm', 1)} ahead of {behind}, "
        f"{lengths:.1f} car lengths."
    )


def tires_in_season_sentence(tires: str) -> str:
    """Say that winter tires were driven in mild air."""
    return f"{capitalized(tires)} were driven in mild or warm air, where winter tires stop longer."


def as_indicated_sentence(found: Dashboard, true_mps: float) -> str:
    """Say what the dashboard shows at a true speed."""
    shown = (true_mps - found.offset_mps.value) / found.ratio.value
    return f"At a true {speed(true_mps)} it shows {speed(shown)}: times by the dashboard end too early."


def braking_sentence(found: BrakingSeries) -> str:
    """Say whether stops get longer."""
    fade = found.fade_per_stop_m
    if fade is None or found.verdict == "too few stops":
        return "Too few stops to tell whether they get longer: brake at least three times, better five."
    size = f"{both_units(fade.value, 'm', 2, '+')} ± {both_units(fade.u95, 'm', 2)} a stop"
    return f"{capitalized(found.verdict)}: {size}; best {both_units(found.best_m, 'm', 1)}."


def repeatability_sentence(found: Repeatability, unit: str) -> str:
    """Say whether passes change in their order, and what to think of the first."""
    size = f"{signed(found.per_pass.value, 3)} ± {found.per_pass.u95:.3f} {unit} a pass"
    change = f"Passes change by {size}" if found.changes else f"No change from pass to pass is shown ({size})"
    if found.first_rank > 1:
        return f"{change}. The first was not the best."
    by_chance = f"{found.first_quickest_p:.0%}"
    return f"{change}. The first was the best; if order means nothing, that happens in {by_chance} of such days."


def receivers_sentence(found: Agreement, unit: str, names: tuple[str, str] = ("the first", "the second")) -> str:
    """Say how two receivers agree."""
    bias = f"{signed(found.bias.value, 3)} ± {found.bias.u95:.3f} {unit}"
    word = (
        f"{capitalized(names[1])} shows {bias} beside {names[0]}"
        if found.biased
        else f"No bias between them is shown ({bias})"
    )
    return (
        f"{word}; 95 of 100 passes differ by {signed(found.lower.value, 3)} to {signed(found.upper.value, 3)} {unit}, "
        f"from {found.passes} passes."
    )


def roll_ons_sentence(measure: str, from_full_power_s: Value, between_s: Value) -> str:
    """Say how long a roll-on takes, from its speed and from the instant of full power."""
    return (
        f"{measure} in {between_s.value:.2f} s ± {between_s.u95:.2f} s, "
        f"{from_full_power_s.value:.2f} s ± {from_full_power_s.u95:.2f} s from the instant of full power."
    )


def levels_sentence(found: Sequence[Level]) -> str:
    """Say which level is the best, and by how much the others differ from the chosen one."""
    best = min(found, key=lambda level: level.rank)
    chosen = next(level for level in found if level.against is None)
    beside = "; ".join(_beside(level.name, level.against) for level in found if level.against)
    return f"{capitalized(best.name)} has the best mean. Beside {chosen.name}: {beside}."


def _beside(name: str, against: Comparison) -> str:
    found, verdict = against.difference, against.verdict
    if found is None or verdict in ("no clear difference", "too few runs", "not comparable"):
        return f"{name} {verdict}"
    half = (found.high95 - found.low95) / 2
    size = f"{both_units(abs(found.value), against.unit, 2)} ± {both_units(half, against.unit, 2)}"
    return f"{name} {verdict} by {size}{'' if verdict.startswith('leans') else ', clear'}"


def energy_sentence(found: Energy) -> str:
    """Say what a run took out of the battery or put back, and what its charge says of it."""
    wh = found.energy_wh
    what = f"{abs(wh.value):.0f} Wh ± {wh.u95:.0f} Wh {'taken' if wh.value >= 0 else 'recovered'}"
    whole = f"{what}, {abs(found.wh_per_mile.value):.0f} Wh a mile"
    if found.from_charge_wh is None:
        return f"{whole}."
    by_charge = f"{found.from_charge_wh.value:.0f} Wh ± {found.from_charge_wh.u95:.0f} Wh by its charge"
    return f"{whole}; {by_charge}{'' if found.agree else ', which does not agree: check capacity and sensors'}."


def dashboard_sentence(found: Dashboard, indicated_mps: float) -> str:
    """Say what an indicated speed truly is."""
    true = found.true_mps(indicated_mps)
    half = f"± {true.u95 / MPH_MPS:.2f} mph (± {true.u95 / KMH_MPS:.2f} km/h)"
    return f"An indicated {speed(indicated_mps)} is a true {speed(true.value)}, {half}."


def laps_sentence(found: Laps) -> str:
    """Say the best lap, and the mean."""
    best = found.laps[found.best]
    return (
        f"Best of {counted(len(found.laps), 'lap')}: {best.time_s.value:.2f} s ± {best.time_s.u95:.2f} s, mean "
        f"{found.mean_s:.2f} s; up to {best.peak_lateral_g:.2f} g in its corners."
    )


def history_sentence(found: History, unit: str, day_of: Callable[[float], str] = "day {:.0f}".format) -> str:
    """Say how a measure changed over months; `day_of` names the day of a jump."""
    trend = f"{signed(found.per_month.value, 3)} ± {found.per_month.u95:.3f} {unit} in 30 days"
    if found.jump is None:
        return f"No jump is shown; the trend is {trend}."
    size = f"{signed(found.jump.size.value, 2)} ± {found.jump.size.u95:.2f} {unit}"
    return f"A jump of {size} about {day_of(found.jump.at)}: was something changed that nobody logged?"


def _percent(ratio: Value) -> str:
    return f"{signed(100 * (ratio.value - 1.0), 1)} % ± {100 * ratio.u95:.1f} %"


def unlike_sentence(first: str, others: Mapping[str, Sequence[Row]], unit: str) -> str:
    """Say in which conditions groups, by name, differ from the first, and what that could account for."""
    parts = [f"{name} in {listed([_accounting(row, unit) for row in rows])}" for name, rows in others.items() if rows]
    return f"Not driven as {first} was: {'; '.join(parts)}."


def _accounting(row: Row, unit: str) -> str:
    if row.effect is None:
        return row.name
    return f"{row.name} (could account for {signed(row.effect.value, 2)} {unit} ± {row.effect.u95:.2f} {unit})"
