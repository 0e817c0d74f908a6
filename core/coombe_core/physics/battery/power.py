"""Battery power against speed, from the channels of CAN data along a run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.physics.wheel_power import BEFORE_LIFT_S, tapers_from_mps

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class BatteryPower:
    """Power that the battery gives (W) at speeds (m/s), its peak, where that is, and where it tapers."""

    speed_mps: Floats
    power_w: Floats
    peak_w: float
    peak_at_mps: float
    tapers_from_mps: float | None


def battery_power(since_s: Floats, channels: Mapping[str, Floats], curve: Curve) -> BatteryPower | None:
    """Work out battery power of a pull until shortly before the lift.

    Parameters
    ----------
    since_s : array of float, shape (n,)
        Times since its start.
    channels : mapping of str to array, shape (n,)
        CAN channels; voltage and current stand in where power is not stated.
    curve : Curve

    Returns
    -------
    BatteryPower or None
        None where neither is stated, or the run is too short.
    """
    power_w = channels.get("battery_power_w")
    if power_w is None and {"battery_voltage_v", "battery_current_a"} <= channels.keys():
        power_w = channels["battery_voltage_v"] * channels["battery_current_a"]
    if power_w is None:
        return None
    inside = (since_s >= 0) & (since_s <= curve.since_s[-1] - BEFORE_LIFT_S) & np.isfinite(power_w)
    if inside.sum() < 3:
        return None
    power_w, speed_mps = power_w[inside], np.interp(since_s[inside], curve.since_s, curve.speed_mps)
    top = int(np.argmax(power_w))
    tapers = tapers_from_mps(speed_mps, power_w)
    return BatteryPower(speed_mps, power_w, float(power_w[top]), float(speed_mps[top]), tapers)
