"""Air: density, density altitude and wind along a course, from what a tester reads or from a weather report.

Sources: moist-air density as the sum of two ideal gases, saturation pressure by Buck (1981), standard atmosphere of
ISO 2533 (ICAO Doc 7488).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from coombe_core.formats.weather import WeatherReport
from coombe_core.units import STANDARD_GRAVITY_MPS2

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

    @classmethod
    def of_report(cls, report: WeatherReport, elevation_m: float = 0.0) -> Air:
        """The air of a weather report at an elevation; of standard density where it lacks pressure or temperature."""
        wind = report.wind_mps or 0.0, report.wind_from_deg or 0.0
        if report.temp_c is None or report.sea_level_hpa is None:
            return cls(STANDARD_DENSITY_KG_M3, *wind)
        pressure_hpa = station_pressure_hpa(report.sea_level_hpa, elevation_m)
        return cls(air_density_kg_m3(pressure_hpa, report.temp_c, humidity_percent(report) or 0.0), *wind)

    def head_wind_mps(self, heading_deg: float) -> float:
        """The part of the wind against a car that drives on a heading; negative from behind."""
        return self.wind_mps * math.cos(math.radians(self.wind_from_deg - heading_deg))


def saturation_pressure_hpa(temp_c: float) -> float:
    """Calculate the saturation vapor pressure over water.

    Parameters
    ----------
    temp_c : float
        -80 to 50 degrees C.

    Returns
    -------
    float
        hPa.

    References
    ----------
    Buck (1981), New equations for computing vapor pressure and enhancement factor.

    Examples
    --------
    >>> round(saturation_pressure_hpa(20.0), 2)
    23.38
    """
    return 6.1121 * math.exp((18.678 - temp_c / 234.5) * temp_c / (257.14 + temp_c))


def humidity_percent(report: WeatherReport) -> float | None:
    """Calculate relative humidity from a report's temperature and dew point; None where it lacks one."""
    if report.temp_c is None or report.dew_point_c is None:
        return None
    return 100.0 * saturation_pressure_hpa(report.dew_point_c) / saturation_pressure_hpa(report.temp_c)


def air_density_kg_m3(pressure_hpa: float, temp_c: float, humidity_percent: float = 0.0) -> float:
    """Calculate the density of moist air as the sum of two ideal gases.

    Parameters
    ----------
    pressure_hpa : float
        Station pressure.
    temp_c : float
    humidity_percent : float
        Relative humidity.

    Returns
    -------
    float
        kg/m^3.

    References
    ----------
    ISO 2533 for the gas constant of dry air; Buck (1981) for the vapor.

    Examples
    --------
    >>> round(air_density_kg_m3(1013.25, 15.0), 3)
    1.225
    """
    vapor_hpa = humidity_percent / 100.0 * saturation_pressure_hpa(temp_c)
    temp_k = temp_c + ZERO_C_K
    return 100.0 * ((pressure_hpa - vapor_hpa) / DRY_AIR_J_PER_KG_K + vapor_hpa / VAPOR_J_PER_KG_K) / temp_k


def density_altitude_m(density_kg_m3: float) -> float:
    """Find the elevation in the standard atmosphere's troposphere that has this density.

    Parameters
    ----------
    density_kg_m3 : float

    Returns
    -------
    float
        Meters.

    References
    ----------
    ISO 2533.

    Examples
    --------
    >>> round(density_altitude_m(1.225))
    0
    """
    exponent = STANDARD_GRAVITY_MPS2 / (DRY_AIR_J_PER_KG_K * LAPSE_K_PER_M) - 1.0
    ratio = float((density_kg_m3 / STANDARD_DENSITY_KG_M3) ** (1.0 / exponent))
    return STANDARD_TEMP_K / LAPSE_K_PER_M * (1.0 - ratio)


def station_pressure_hpa(sea_level_hpa: float, elevation_m: float) -> float:
    """Bring a sea-level (altimeter) setting to an elevation, in the standard atmosphere.

    Parameters
    ----------
    sea_level_hpa : float
    elevation_m : float
        Above sea level.

    Returns
    -------
    float
        hPa.

    References
    ----------
    ISO 2533.
    """
    exponent = STANDARD_GRAVITY_MPS2 / (DRY_AIR_J_PER_KG_K * LAPSE_K_PER_M)
    return sea_level_hpa * float((1.0 - LAPSE_K_PER_M * elevation_m / STANDARD_TEMP_K) ** exponent)
