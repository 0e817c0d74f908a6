"""What holds a car back: rotating mass, drag, rolling and slope, each with where its number came from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from coombe_core.physics.air import STANDARD_DENSITY_KG_M3
from coombe_core.units import STANDARD_GRAVITY_MPS2

Floats = NDArray[np.float64]
ASSUMED_CDA_M2 = 0.58
ASSUMED_ROLLING = 0.010
ASSUMED_ROTATING = 1.04


@dataclass(frozen=True)
class RoadLoad:
    """A car's test mass (kg), drag area (m^2), rolling coefficient and rotating-mass factor.

    `assumed` names what was not stated and taken from the constants above.
    """

    mass_kg: float
    cda_m2: float = ASSUMED_CDA_M2
    rolling_coefficient: float = ASSUMED_ROLLING
    rotating_mass_factor: float = ASSUMED_ROTATING
    assumed: tuple[str, ...] = ()

    @classmethod
    def of(
        cls,
        mass_kg: float,
        cda_m2: float | None = None,
        rolling_coefficient: float | None = None,
        rotating_mass_factor: float | None = None,
    ) -> RoadLoad:
        """With whatever was stated; the rest is assumed and named so."""
        stated = {
            "cda_m2": cda_m2,
            "rolling_coefficient": rolling_coefficient,
            "rotating_mass_factor": rotating_mass_factor,
        }
        known = {name: value for name, value in stated.items() if value is not None}
        return cls(mass_kg, **known, assumed=tuple(name for name in stated if name not in known))

    def drag_mps2(self, speed_mps: Floats, density_kg_m3: float, head_wind_mps: float) -> Floats:
        """Deceleration by drag: 1/2 rho CdA v_air |v_air| / (k m), v_air = v + head wind."""
        air_mps = speed_mps + head_wind_mps
        force_n = 0.5 * density_kg_m3 * self.cda_m2 * air_mps * np.abs(air_mps)
        return np.asarray(force_n / (self.rotating_mass_factor * self.mass_kg))

    def slope_mps2(self, slope_percent: Floats) -> Floats:
        """Deceleration by an uphill slope: g sin(theta) / k."""
        return np.asarray(STANDARD_GRAVITY_MPS2 * np.sin(np.arctan(slope_percent / 100.0)) / self.rotating_mass_factor)

    def wheel_power_w(
        self,
        speed_mps: Floats,
        acceleration_mps2: Floats,
        slope_percent: float = 0.0,
        density_kg_m3: float = STANDARD_DENSITY_KG_M3,
        head_wind_mps: float = 0.0,
    ) -> Floats:
        """P = (k m a + 1/2 rho CdA v_air |v_air| + m g Crr cos(theta) + m g sin(theta)) v, in watts."""
        angle = np.arctan(slope_percent / 100.0)
        effective_kg = self.rotating_mass_factor * self.mass_kg
        driving_n = effective_kg * (acceleration_mps2 + self.drag_mps2(speed_mps, density_kg_m3, head_wind_mps))
        weight_n = self.mass_kg * STANDARD_GRAVITY_MPS2
        return np.asarray(
            (driving_n + weight_n * (self.rolling_coefficient * np.cos(angle) + np.sin(angle))) * speed_mps
        )
