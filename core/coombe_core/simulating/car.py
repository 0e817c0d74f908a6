"""A simulated electric car: grip, torque ramp, power with taper, drag, rolling and slope, stepped at 1 kHz."""

from __future__ import annotations

import math
from dataclasses import dataclass

from coombe_core.fitting.torque_ramp import Shape
from coombe_core.units import STANDARD_GRAVITY_MPS2

STEP_S = 0.001
AIR_DENSITY_KG_M3 = 1.225
FULL_PERCENT, LOST_BY_POINT, LOST_BY_KELVIN = 95.0, 0.0025, 0.006  # of power, with charge and with cold


@dataclass(frozen=True)
class SimulatedCar:
    """What decides how fast the car leaves and stops; `power_w` is at the wheels with a full, warm battery.

    `halt_ramp_s` is the last moment of a stop, over which the brakes let go.
    """

    mass_kg: float = 1900.0
    rotating_mass_factor: float = 1.04
    grip: float = 0.95
    power_w: float = 260_000.0
    taper_from_mps: float = 42.0
    taper_per_mps: float = 0.012
    cda_m2: float = 0.56
    rolling_coefficient: float = 0.010
    ramp_s: float = 0.13
    ramp_shape: Shape = "smooth"
    brake_grip: float = 1.0
    brake_ramp_s: float = 0.15
    halt_ramp_s: float = 0.0
    best_battery_temp_c: float = 45.0


@dataclass(frozen=True)
class Conditions:
    """The state and surroundings of one run. `slope_percent` is positive uphill, `head_wind_mps` against the car."""

    charge_percent: float = 95.0
    battery_temp_c: float = 45.0
    slope_percent: float = 0.0
    head_wind_mps: float = 0.0


def power_share(car: SimulatedCar, conditions: Conditions) -> float:
    """The share of full power that charge and battery temperature leave: 0.25 % a point of charge, 0.6 % a kelvin."""
    by_charge = 1.0 - LOST_BY_POINT * max(FULL_PERCENT - conditions.charge_percent, 0.0)
    by_heat = 1.0 - LOST_BY_KELVIN * max(car.best_battery_temp_c - conditions.battery_temp_c, 0.0)
    return by_charge * by_heat


def ramp_share(shape: Shape, since_s: float, duration_s: float) -> float:
    """The scalar form of the share in `torque_integrals`, for the 1 kHz loop."""
    x = max(since_s, 0.0) / duration_s
    if shape == "first-order":
        return 1.0 - math.exp(-3.0 * x)
    x = min(x, 1.0)
    return x * x * (3.0 - 2.0 * x) if shape == "smooth" else x


def resistance_mps2(car: SimulatedCar, conditions: Conditions, speed_mps: float) -> float:
    """Deceleration by drag, rolling and slope at a speed."""
    air_mps = speed_mps + conditions.head_wind_mps
    angle = math.atan(conditions.slope_percent / 100.0)
    drag_n = 0.5 * AIR_DENSITY_KG_M3 * car.cda_m2 * air_mps * abs(air_mps)
    weight_n = car.mass_kg * STANDARD_GRAVITY_MPS2
    rolling_n = weight_n * car.rolling_coefficient * math.cos(angle) if speed_mps > 0 else 0.0
    return (drag_n + rolling_n + weight_n * math.sin(angle)) / (car.mass_kg * car.rotating_mass_factor)


def full_drive_mps2(car: SimulatedCar, conditions: Conditions, speed_mps: float) -> float:
    """Acceleration that the wheels deliver at full power, before resistance: the lesser of grip and power."""
    effective_kg = car.mass_kg * car.rotating_mass_factor
    taper = max(1.0 - car.taper_per_mps * max(speed_mps - car.taper_from_mps, 0.0), 0.1)
    power_w = car.power_w * power_share(car, conditions) * taper
    by_power = power_w / (effective_kg * max(speed_mps, 0.5))
    return min(car.grip * STANDARD_GRAVITY_MPS2 / car.rotating_mass_factor, by_power)
