"""The air at the strip, as a weather station last reported it."""

from __future__ import annotations

from typing import Any

from coombe_core.formats.weather import WeatherReport, read_metar
from runs.physics import conditions_of


class Weather:
    """Takes METAR lines and gives the conditions of a run."""

    def __init__(self) -> None:
        self._report: WeatherReport | None = None

    def take(self, line: str) -> None:
        """The next report. Raises ValueError where it is none."""
        self._report = read_metar(line)

    @property
    def wind_mps(self) -> float | None:
        """Wind speed."""
        return self._report.wind_mps if self._report else None

    @property
    def wind_from_deg(self) -> float | None:
        """Where the wind comes from."""
        return self._report.wind_from_deg if self._report else None

    @property
    def temp_c(self) -> float | None:
        """Outside temperature."""
        return self._report.temp_c if self._report else None

    def conditions(self, elevation_m: float) -> dict[str, Any]:
        """The conditions that the last report gives at a height; empty before the first."""
        return conditions_of(self._report, elevation_m) if self._report else {}
