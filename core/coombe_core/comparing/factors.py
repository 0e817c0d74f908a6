"""What two groups may differ in beside the change: each with its unit, and how far apart still counts as alike.

Bands are stated defaults of common practice: charge within 3 points, battery temperature within 5 K.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from coombe_core.comparing.state import State


@dataclass(frozen=True)
class Factor:
    """A number that was noted of every run: the field of `State` with it, and the band within which it is alike."""

    name: str
    field: str
    unit: str
    band: float
    digits: int = 0

    def of(self, state: State) -> float | None:
        """The number of one run."""
        value: float | None = getattr(state, self.field)
        return value


CHARGE = Factor("charge", "charge_percent", "%", 3.0)
BATTERY = Factor("battery temperature", "battery_temp_c", "°C", 5.0)
DENSITY = Factor("air density", "density_kg_m3", "kg/m³", 0.03, 3)
WIND = Factor("head wind", "head_wind_mps", "m/s", 1.0, 1)
SLOPE = Factor("slope", "slope_percent", "%", 0.2, 2)
LOAD = Factor("load", "load_kg", "kg", 40.0)
BRAKES = Factor("brake temperature", "brake_temp_c", "°C", 60.0)
WHEELS = Factor("wheel mass", "wheel_mass_kg", "kg", 0.5, 1)
OUTSIDE = Factor("outside temperature", "outside_temp_c", "°C", 8.0)
TREAD = Factor("tire tread", "tire_tread_mm", "mm", 1.0, 1)
TIRE_DISTANCE = Factor("tire distance", "tire_distance_km", "km", 2000.0)
PRESSURE = Factor("tire pressure", "tire_pressure_kpa", "kPa", 15.0)
RATE = Factor("fixes a second", "rate_hz", "Hz", 1.0)
HOUR = Factor("time of day", "hour", "h", 2.0, 1)
FACTORS = (
    *(CHARGE, BATTERY, SLOPE, WIND, DENSITY, OUTSIDE, LOAD, BRAKES),
    *(WHEELS, TREAD, TIRE_DISTANCE, PRESSURE, RATE, HOUR),
)
LEARNED = (CHARGE, BATTERY, BRAKES)
PHYSICAL = (SLOPE, DENSITY, WIND)
ADJUSTABLE = {factor.name: factor for factor in (*LEARNED, *PHYSICAL)}
OF_THE_SETUP = (WHEELS, TREAD, TIRE_DISTANCE, PRESSURE)


@dataclass(frozen=True)
class Kind:
    """A word that was noted of every run: its name and the field of `State` that holds it."""

    name: str
    field: str

    def of(self, state: State) -> str:
        """The word of one run; empty where none was noted."""
        return str(getattr(state, self.field))

    def counts(self, states: Sequence[State]) -> dict[str, int]:
        """How often each word was noted in a group."""
        return dict(Counter(word for state in states if (word := self.of(state))))


DIRECTION = Kind("direction", "direction")
SURFACE = Kind("surface", "surface")
RECEIVER = Kind("receiver", "receiver")
KINDS = (
    *(DIRECTION, SURFACE, Kind("drive mode", "drive_mode"), Kind("launch aid", "launch_aid")),
    *(Kind("climate control", "climate"), RECEIVER, Kind("tires", "tires"), Kind("software", "software")),
)
CHOSEN = tuple(kind for kind in KINDS if kind not in (DIRECTION, RECEIVER))


def known(factor: Factor, states: Sequence[State]) -> list[float]:
    """The numbers that were noted in a group."""
    return [value for state in states if (value := factor.of(state)) is not None]
