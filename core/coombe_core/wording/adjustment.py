"""Why a factor could not be adjusted for."""

from __future__ import annotations

from coombe_core.comparing.adjusting import Refusal
from coombe_core.comparing.factors import PHYSICAL
from coombe_core.wording.quantities import both_units, range_in_both_units


def refusal(refused: Refusal) -> str:
    """Say what is missing for an adjustment."""
    factor = refused.factor
    name, unit = factor.name.capitalize(), factor.unit
    if refused.reason == "not recorded":
        return f"{name} can't be adjusted: it was not recorded for {refused.missing} of {refused.runs} runs."
    if refused.reason == "sensitivity unknown":
        how = "the car's test mass" if factor in PHYSICAL else "runs of this car in which it varies, such as a sweep"
        return f"{name} can't be adjusted without {how}."
    assert refused.low is not None and refused.high is not None
    means = " and ".join(both_units(mean, unit, factor.digits) for mean in refused.means)
    return (
        f"{name} can't be adjusted: the groups are at {means}, outside the "
        f"{range_in_both_units(refused.low, refused.high, unit)} of the runs that the sensitivity was learned from."
    )
