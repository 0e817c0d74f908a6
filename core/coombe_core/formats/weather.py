"""Weather reports: METAR lines, as airports and small weather stations give them."""

from __future__ import annotations

from dataclasses import dataclass

from coombe_core.units import KNOT_MPS


@dataclass(frozen=True)
class WeatherReport:
    """What a METAR line says; None where it does not. Wind from all round is given as no direction."""

    temp_c: float | None
    dew_point_c: float | None
    sea_level_hpa: float | None
    wind_mps: float | None
    wind_from_deg: float | None

    @property
    def has_density(self) -> bool:
        """Whether it has both pressure and temperature."""
        return self.temp_c is not None and self.sea_level_hpa is not None


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
