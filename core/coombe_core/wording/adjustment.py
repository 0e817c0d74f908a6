"""Why a factor could not be adjusted for."""

from __future__ import annotations

from coombe_core.comparing.adjusting import Refusal
from coombe_core.comparing.factors import PHYSICAL


def refusal(refused: Refusal) -> str:
    """Say what is missing for an adjustment."""
    factor = refused.factor
    name, unit = factor.name.capitalize(), factor.unit
    if refused.reason == "not recorded":
        return f"{name} can't be adjusted: it was not written down for {refused.missing} of {refused.runs} runs."
    if refused.reason == "sensitivity unknown":
        how = "the car's test mass" if factor in PHYSICAL else "runs of this car in which it varies, such as a sweep"
        return f"{name} can't be adjusted: that takes {how}."
    means = " and ".join(f"{mean:.{factor.digits}f}" for mean in refused.means)
    return (
        f"{name} can't be adjusted: the groups lie at {means} {unit}, and the runs that tell cover "
        f"{refused.low:.0f} to {refused.high:.0f} {unit}."
    )
