"""Air: density, density altitude and wind along a course, from what a tester reads or from a weather report line.

Sources: moist-air density as the sum of two ideal gases, saturation pressure by Buck (1981), standard atmosphere of
ISO 2533 (ICAO Doc 7488).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from coombe_core.units import KNOT_MPS, STANDARD_GRAVITY_MPS2

DRY_AIR_J_PER_KG_K = 287.05287
VAPOR_J_PER_KG_K = 461.495
ZERO_C_K = 273.15
STANDARD_DENSITY_KG_M3 = 1.225
STANDARD_TEMP_K = 288.15
LAPSE_K_PER_M = 0.0065


@dataclass(frozen=True)
class Air:
    """Air density (kg/m^3) and the wind: its speed (m/s) and the direction that it blows from (degrees)."""

    density_kg_m3: float = STANDARD_DENSITY_KG_M3
    wind_mps: float = 0.0
    wind_from_deg: float = 0.0

    def head_wind_mps(self, heading_deg: float) -> float:
        """The part of the wind against a car that drives on a heading; negative from behind."""
        return self.wind_mps * math.cos(math.radians(self.wind_from_deg - heading_deg))


def saturation_pressure_hpa(temp_c: float) -> float:
    """Saturation vapor pressure over water in hPa (Buck 1981, equation for -80 to 50 degrees C).

    >>> round(saturation_pressure_hpa(20.0), 2)
    23.37
    """
    return 6.1121 * math.exp((18.678 - temp_c / 234.5) * temp_c / (257.14 + temp_c))


def air_density_kg_m3(pressure_hpa: float, temp_c: float, humidity_percent: float = 0.0) -> float:
    """Density of moist air from station pressure, temperature and relative humidity.

    >>> round(air_density_kg_m3(1013.25, 15.0), 3)
    1.225
    """
    vapor_hpa = humidity_percent / 100.0 * saturation_pressure_hpa(temp_c)
    temp_k = temp_c + ZERO_C_K
    return 100.0 * ((pressure_hpa - vapor_hpa) / DRY_AIR_J_PER_KG_K + vapor_hpa / VAPOR_J_PER_KG_K) / temp_k


def density_altitude_m(density_kg_m3: float) -> float:
    """The height in the standard atmosphere's troposphere that has this density (ISO 2533), in metres."""
    exponent = STANDARD_GRAVITY_MPS2 / (DRY_AIR_J_PER_KG_K * LAPSE_K_PER_M) - 1.0
    ratio = float((density_kg_m3 / STANDARD_DENSITY_KG_M3) ** (1.0 / exponent))
    return STANDARD_TEMP_K / LAPSE_K_PER_M * (1.0 - ratio)


def station_pressure_hpa(sea_level_hpa: float, height_m: float) -> float:
    """Pressure at a height from a report's sea-level (altimeter) setting, in the standard atmosphere."""
    exponent = STANDARD_GRAVITY_MPS2 / (DRY_AIR_J_PER_KG_K * LAPSE_K_PER_M)
    return sea_level_hpa * float((1.0 - LAPSE_K_PER_M * height_m / STANDARD_TEMP_K) ** exponent)


@dataclass(frozen=True)
class WeatherReport:
    """What a METAR line says; None where it does not. Wind from all round is given as no direction."""

    temp_c: float | None
    dew_point_c: float | None
    sea_level_hpa: float | None
    wind_mps: float | None
    wind_from_deg: float | None

    @property
    def humidity_percent(self) -> float | None:
        """Relative humidity from the dew point."""
        if self.temp_c is None or self.dew_point_c is None:
            return None
        return 100.0 * saturation_pressure_hpa(self.dew_point_c) / saturation_pressure_hpa(self.temp_c)

    @property
    def tells_density(self) -> bool:
        """Whether it has both pressure and temperature."""
        return self.temp_c is not None and self.sea_level_hpa is not None

    def air(self, height_m: float = 0.0) -> Air:
        """The air at a height; of standard density where the report lacks pressure or temperature."""
        if self.temp_c is None or self.sea_level_hpa is None:
            return Air(wind_mps=self.wind_mps or 0.0, wind_from_deg=self.wind_from_deg or 0.0)
        pressure_hpa = station_pressure_hpa(self.sea_level_hpa, height_m)
        density = air_density_kg_m3(pressure_hpa, self.temp_c, self.humidity_percent or 0.0)
        return Air(density, self.wind_mps or 0.0, self.wind_from_deg or 0.0)


def read_metar(line: str) -> WeatherReport:
    """Read a METAR line. Raises ValueError with a sentence where it is none."""
    import warnings

    from metar.Metar import Metar, ParserError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # groups that it does not know
            report = Metar(line.strip(), strict=False)
    except (ParserError, ValueError, IndexError, AttributeError):
        raise ValueError(f"not a METAR line: {line.strip()[:60]!r}") from None
    if report.temp is None and report.press is None and report.wind_speed is None:
        raise ValueError(f"a METAR line without temperature, pressure or wind: {line.strip()[:60]!r}")
    return WeatherReport(
        report.temp.value("C") if report.temp else None,
        report.dewpt.value("C") if report.dewpt else None,
        report.press.value("MB") if report.press else None,
        report.wind_speed.value("KT") * KNOT_MPS if report.wind_speed else None,
        report.wind_dir.value() if report.wind_dir else None,
    )
