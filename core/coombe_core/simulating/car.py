"""A simulated electric car: grip, torque ramp, power with taper, drag, rolling and slope, stepped at 1 kHz."""

from __future__ import annotations

import math
from dataclasses import dataclass

from coombe_core.fitting.torque_ramp import Shape
from coombe_core.units import STANDARD_GRAVITY_MPS2

STEP_S = 0.001
AIR_DENSITY_KG_M3 = 1.225
BLENDED_OUT_MPS = (2.0, 4.0)
FULL_PERCENT, LOST_BY_POINT, LOST_BY_KELVIN = 95.0, 0.0025, 0.006  # of power, with charge and with cold


@dataclass(frozen=True)
class SimulatedCar:
    """What decides how fast the car leaves and stops; `power_w` is at the wheels with a full, warm battery.

    `halt_ramp_s` is the last moment of a stop, over which the brakes let go. A gear is changed at `shift_at_mps`: the
    pull falls to `shift_share` for `shift_s`. While braking, the force changes by `brake_drift` of itself a second and
    pulses by `brake_ripple` of itself; `blended_share` of it is regeneration, which fades out from 4 to 2 m/s.
    `coasting_mps2` is the regeneration of a lifted pedal.
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
    shift_at_mps: float = math.inf
    shift_s: float = 0.15
    shift_share: float = 0.3
    brake_drift: float = 0.0
    brake_ripple: float = 0.0
    brake_ripple_hz: float = 12.0
    blended_share: float = 0.0
    coasting_mps2: float = 0.6


@dataclass(frozen=True)
class Conditions:
    """The state and surroundings of one run. `slope_percent` is positive uphill, `head_wind_mps` against the car.

    Beside its slope the course may undulate: by `undulation_percent`, once in `undulation_m`.
    """

    charge_percent: float = 95.0
    battery_temp_c: float = 45.0
    slope_percent: float = 0.0
    head_wind_mps: float = 0.0
    undulation_percent: float = 0.0
    undulation_m: float = 100.0
    undulation_from: float = 0.0  # where in the wave the drive begins, in radians

    def slope_at(self, distance_m: float) -> float:
        """Slope in percent so far into the drive."""
        if not self.undulation_percent:
            return self.slope_percent
        angle = 2 * math.pi * distance_m / self.undulation_m + self.undulation_from
        return self.slope_percent + self.undulation_percent * math.sin(angle)


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


def resistance_mps2(car: SimulatedCar, conditions: Conditions, speed_mps: float, distance_m: float = 0.0) -> float:
    """Deceleration by drag, rolling and slope at a speed, so far into the drive."""
    air_mps = speed_mps + conditions.head_wind_mps
    angle = math.atan(conditions.slope_at(distance_m) / 100.0)
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


def braking_mps2(car: SimulatedCar, speed_mps: float, since_s: float) -> float:
    """Deceleration by the brakes at a speed, so long after they were pressed, once they have bitten."""
    force = car.brake_grip * STANDARD_GRAVITY_MPS2 * (1.0 + car.brake_drift * since_s)
    if car.brake_ripple:
        force *= 1.0 + car.brake_ripple * math.sin(2 * math.pi * car.brake_ripple_hz * since_s)
    faded = min(max((BLENDED_OUT_MPS[1] - speed_mps) / (BLENDED_OUT_MPS[1] - BLENDED_OUT_MPS[0]), 0.0), 1.0)
    return force * (1.0 - car.blended_share * faded)
