"""Studies as sentences: what each answers, and what it can't be made of."""

from __future__ import annotations

from coombe_core.studies.braking import BrakingSeries
from coombe_core.studies.problem import StudyError
from coombe_core.studies.receivers import Agreement
from coombe_core.studies.repeatability import Repeatability
from coombe_core.studies.sweep import Sweep
from coombe_core.uncertainty import Value
from coombe_core.wording.quantities import both_units, capitalized, counted, signed


def problem(error: StudyError, of: str) -> str:
    """Say why a study of something (`sweep`, `braking series` …) can't be made, and what to do."""
    numbers = error.numbers
    match error.reason:
        case "too few":
            runs = counted(int(numbers["runs"]), "run")
            return f"{capitalized(of)} of {runs}: record at least {numbers['least']:.0f}."
        case "one level":
            return (
                f"All runs are between {numbers['low']:.0f} and {numbers['high']:.0f} %: a {of} needs at least "
                f"{numbers['least']:.0f} points between its first and last."
            )
        case "missing":
            missing = f"{numbers['missing']:.0f} of {numbers['runs']:.0f} runs"
            return f"Charge is missing for {missing}: note it for all of them."


def sweep_sentence(found: Sweep) -> str:
    """Say how a measure holds up, and whether it steps."""
    high, low = found.at[0], found.at[-1]
    held = f"From {high:.0f} to {low:.0f} % charge it changes by {_percent(found.lowest_to_highest, 1.0)}"
    if found.step is None:
        return f"{held}; no step is shown."
    size = found.step.size
    return (
        f"{held}, with a step of {signed(size.value, 2)} ± {size.u95:.2f} at {found.step.at:.0f} % "
        f"(between {found.step.low:.0f} and {found.step.high:.0f} %)."
    )


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


def receivers_sentence(found: Agreement, unit: str) -> str:
    """Say how two receivers agree."""
    bias = f"{signed(found.bias.value, 3)} ± {found.bias.u95:.3f} {unit}"
    word = f"The second says {bias} beside the first" if found.biased else f"No bias between them is shown ({bias})"
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


def _percent(ratio: Value, of: float) -> str:
    return f"{signed(100 * (ratio.value - of), 1)} % ± {100 * ratio.u95:.1f} %"
