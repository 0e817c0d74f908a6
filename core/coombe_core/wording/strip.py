"""Whether a strip is long enough, and what that rests on."""

from __future__ import annotations

from coombe_core.planning.friction import COLD_SUMMER_SHARE, WARM_WINTER_SHARE, Friction
from coombe_core.planning.strip import LEAST_MARGIN_M, MARGIN_SHARE, POWER_SHARE, REACTION_S, Reach, StripCheck
from coombe_core.wording.quantities import both_units, speed

FRICTION_SOURCE = "sliding friction, Taborek 1957 in Wong, Theory of Ground Vehicles"


def strip_sentence(checked: StripCheck) -> str:
    """Say whether a run fits a strip and, where it does not, what is missing and what would fit."""
    needed, available = _length(checked.needed_m), _length(checked.available_m)
    if checked.fits:
        spare = _length(checked.available_m - checked.needed_m)
        return f"The strip is long enough: {needed} of {available}, {spare} spare."
    return (
        f"The strip is {_length(checked.shortfall_m)} too short: {needed} are needed to pull, react and stop, and "
        f"{available} are available. The highest speed that fits is {speed(checked.highest_mps)}."
    )


def basis_sentences(checked: StripCheck) -> str:
    """Say what the parts of a strip check rest on."""
    return (
        f"At {speed(checked.target_mps)}. Distance to it: {reach_source(checked.reach)}. Friction "
        f"{checked.friction.coefficient:.2f}: {friction_source(checked.friction)}. Reaction {REACTION_S:g} s, as in "
        f"road design. Margin: {100 * MARGIN_SHARE:.0f} % of the stop, at least {_length(LEAST_MARGIN_M)}."
    )


def friction_source(grip: Friction) -> str:
    """Say where a coefficient of friction comes from."""
    match grip.lessened_by:
        case "":
            return FRICTION_SOURCE
        case "ice":
            return f"{FRICTION_SOURCE}; moisture at {grip.outside_temp_c:g} °C may be ice"
        case "cold":
            return f"{FRICTION_SOURCE}; {grip.tire_season} tires in the cold, times {COLD_SUMMER_SHARE:g}, assumed"
        case "warmth":
            return f"{FRICTION_SOURCE}; {grip.tire_season} tires in the warm, times {WARM_WINTER_SHARE:g}, assumed"


def reach_source(reach: Reach) -> str:
    """Say where the distance to a speed comes from."""
    if reach.runs:
        return f"this car's own {reach.runs} runs, the farthest of them"
    power = f"{100 * POWER_SHARE:g} % of {reach.power_w / 1000:.0f} kW"
    return f"mass and power: {reach.launch_g:g} g at the launch, then {power}"


def _length(length_m: float) -> str:
    return both_units(length_m, "m", 0)
