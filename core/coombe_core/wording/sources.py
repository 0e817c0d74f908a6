"""Where a number came from: learned from a car's own runs, worked out, or assumed."""

from __future__ import annotations

from coombe_core.comparing.differences import Row
from coombe_core.comparing.factors import CHARGE, DIRECTION, OUTSIDE, SLOPE
from coombe_core.comparing.sensitivity import Sensitivity
from coombe_core.comparing.statistics.scatter import ASSUMED_DAY_SHARE, ASSUMED_RUN_SHARE, Scatter
from coombe_core.learned import Learned, Occasion
from coombe_core.wording.quantities import both_units, counted, range_in_both_units

# What a parameter is learned from (one, several), and what to do to learn it.
OCCASIONS: dict[Occasion, tuple[str, str, str]] = {
    "rest": ("rest interval", "rest intervals", "log the battery while the car rests to learn it"),
    "heating": ("heating interval", "heating intervals", "log the battery while it is heated to learn it"),
    "charging": ("charging session", "charging sessions", "log the charge while charging to learn it"),
    "runs": ("series of runs", "series of runs", "enter the charge before each run to learn it"),
}
ACTS_THROUGH = {OUTSIDE.name: "acts through air density", DIRECTION.name: "acts through slope and head wind"}


def learned_source(learned: Learned) -> str:
    """Say what a parameter was learned from, or how to learn it."""
    one, several, remedy = OCCASIONS[learned.of]
    if learned.assumed:
        return f"assumed; {remedy}"
    return f"learned from {counted(learned.occasions, one, several)}"


def scatter_source(scatter: Scatter) -> str:
    """Say where a scatter comes from."""
    by_day = f"{100 * ASSUMED_DAY_SHARE:g} % from day to day"
    if scatter.origin == "assumed":
        return f"assumed: {100 * ASSUMED_RUN_SHARE:g} % from run to run, {by_day}"
    if scatter.origin == "these runs":
        return "these runs"
    history = f"this car's own, {scatter.days} days of {scatter.runs} runs"
    return f"{history}; {by_day} assumed" if scatter.day_assumed else history


def sensitivity_source(row: Sensitivity) -> str:
    """Say what a sensitivity was learned from, worked out from, or assumed to be."""
    numbers = row.numbers
    if row.kind == "learned" and row.low is not None and row.high is not None:
        return f"this car's own: {numbers['runs']:.0f} runs, {range_in_both_units(row.low, row.high, row.factor.unit)}"
    if row.kind == "assumed":
        per = "a point" if row.factor is CHARGE else "a kelvin"
        return f"stated default: {100 * abs(numbers['share']):.2f} % {per}, between zero and twice that"
    if row.factor is SLOPE:
        return "weight along the slope"
    if "mass_kg" in numbers:
        return f"mass where power limits, of {both_units(numbers['mass_kg'], 'kg', 0)}"
    return f"drag area {numbers['cda_m2']:.2f} m²{', assumed' if numbers['cda_assumed'] else ''}"


def row_source(row: Row) -> str:
    """Say how a difference in conditions acts on the measure; empty where nothing is known of that."""
    return sensitivity_source(row.sensitivity) if row.sensitivity and row.effect else ACTS_THROUGH.get(row.name, "")
