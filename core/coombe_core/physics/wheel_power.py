"""Wheel power against speed from a run's fitted curve: its peak, and the speed at which it tapers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.curve import Curve
from coombe_core.physics.road_load import RoadLoad
from coombe_core.units import MECHANICAL_HORSEPOWER_W, METRIC_HORSEPOWER_W

Floats = NDArray[np.float64]
FULL_TORQUE_S = 0.5
BEFORE_LIFT_S = 0.3
TAPERED = 0.95  # power has tapered where it stays under this share of its peak


@dataclass(frozen=True)
class WheelPower:
    """Power at the wheels (W) at speeds (m/s), its peak, where that is and where it tapers, and what was assumed."""

    speed_mps: Floats
    power_w: Floats
    peak_w: float
    peak_at_mps: float
    tapers_from_mps: float | None
    assumed: tuple[str, ...]

    @property
    def peak_metric_hp(self) -> float:
        """The peak in metric horsepower (735.499 W)."""
        return self.peak_w / METRIC_HORSEPOWER_W

    @property
    def peak_mechanical_hp(self) -> float:
        """The peak in mechanical horsepower (745.700 W)."""
        return self.peak_w / MECHANICAL_HORSEPOWER_W


def wheel_power(
    curve: Curve,
    road_load: RoadLoad,
    slope_percent: float = 0.0,
    density_kg_m3: float = 1.225,
    head_wind_mps: float = 0.0,
) -> WheelPower | None:
    """Work out power at the wheels between full torque and the lift.

    Parameters
    ----------
    curve : Curve
        The fitted motion of a pull.
    road_load : RoadLoad
    slope_percent : float
        Positive uphill.
    density_kg_m3 : float
        Of the air.
    head_wind_mps : float
        Negative from behind.

    Returns
    -------
    WheelPower or None
        None where the run is too short to say.
    """
    inside = (curve.since_s > FULL_TORQUE_S) & (curve.since_s < curve.since_s[-1] - BEFORE_LIFT_S)
    if inside.sum() < 3:
        return None
    speed, acceleration = curve.speed_mps[inside], curve.acceleration_mps2[inside]
    power = road_load.wheel_power_w(speed, acceleration, slope_percent, density_kg_m3, head_wind_mps)
    top = int(np.argmax(power))
    tapers = tapers_from_mps(speed, power)
    return WheelPower(speed, power, float(power[top]), float(speed[top]), tapers, road_load.assumed)


def tapers_from_mps(speed_mps: Floats, power_w: Floats) -> float | None:
    """Find the speed from which power stays under 95 % of its peak.

    Parameters
    ----------
    speed_mps, power_w : array of float, shape (n,)

    Returns
    -------
    float or None
        m/s; None where it never does.
    """
    full = np.flatnonzero(power_w >= TAPERED * power_w.max())
    return float(speed_mps[full[-1] + 1]) if full[-1] + 1 < power_w.size else None
