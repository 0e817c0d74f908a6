"""Clocks: where a time starts.

first_movement
    The instant at which the car leaves rest, from the fit of the launch.
rollout
    One foot further on, where the clock of a drag strip starts.
speed
    The speed at which the measure begins: roll-ons, and stops through their nominal speed.
"""

from __future__ import annotations

from typing import Literal

from coombe_core.curve import Curve
from coombe_core.interpolation import crossing
from coombe_core.units import FOOT_M

Clock = Literal["first_movement", "rollout", "speed"]
CLOCKS: tuple[Clock, ...] = ("first_movement", "rollout", "speed")
ROLLOUT_M = FOOT_M


def zero_s(curve: Curve, clock: Clock, from_mps: float = 0.0) -> float | None:
    """Find a clock's zero on a curve.

    Parameters
    ----------
    curve : Curve
        The fitted motion since first movement.
    clock : {"first_movement", "rollout", "speed"}
    from_mps : float
        Where a measure between speeds begins; only the clock `speed` asks.

    Returns
    -------
    float or None
        Seconds on the curve's axis; None where the curve does not pass the zero.
    """
    if clock == "rollout":
        return crossing(ROLLOUT_M, curve.distance_m, curve.since_s)
    return crossing(from_mps, curve.speed_mps, curve.since_s) if clock == "speed" else 0.0
