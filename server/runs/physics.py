"""What the car and the air make of a stored run: corrected times, wheel power, air density."""

from __future__ import annotations

from typing import Any

import numpy as np

from cars.road_load import road_load
from coombe_core.formats.parquet import read_columns
from coombe_core.formats.weather import WeatherReport, read_metar
from coombe_core.physics.air import Air, air_density_kg_m3, density_altitude_m, humidity_percent, station_pressure_hpa
from coombe_core.physics.road_load import RoadLoad
from coombe_core.physics.wheel_power import WheelPower, wheel_power
from coombe_core.timing.corrections import Correction, corrected
from coombe_core.timing.results import TimedRun
from coombe_core.uncertainty import Value
from coombe_core.wording.corrections import reference
from runs.curves import decoded
from runs.models import Run, value_of


def air_of(run: Run) -> Air | None:
    """The air of a run; None where pressure or temperature was not recorded."""
    if run.pressure_hpa is None or run.outside_temp_c is None:
        return None
    density = air_density_kg_m3(run.pressure_hpa, run.outside_temp_c, run.humidity_percent or 0.0)
    return Air(density, run.wind_mps or 0.0, run.wind_from_deg or 0.0)


def weather_of(run: Run, report: str) -> dict[str, float | None]:
    """What a METAR line says of a run's conditions, its pressure brought to the height of the run's fixes.

    Raises ValueError with a sentence where it is no such line.
    """
    elevations_m = read_columns(bytes(run.trace.fixes))["altitude_m"]
    known = elevations_m[np.isfinite(elevations_m)]
    return conditions_of(read_metar(report), float(np.median(known)) if known.size else 0.0)


def conditions_of(report: WeatherReport, elevation_m: float) -> dict[str, float | None]:
    """The conditions that a weather report states, with the pressure at a height."""
    pressure = None if report.sea_level_hpa is None else station_pressure_hpa(report.sea_level_hpa, elevation_m)
    found = {
        "outside_temp_c": report.temp_c,
        "pressure_hpa": pressure,
        "humidity_percent": humidity_percent(report),
        "wind_mps": report.wind_mps,
        "wind_from_deg": report.wind_from_deg,
    }
    return {name: None if value is None else round(value, 1) for name, value in found.items()}


def road_load_of(run: Run) -> RoadLoad | None:
    """The road load of a run's setup with what it carried; None without a test mass."""
    return road_load(run.setup, run.load_kg or 0.0)


def timed(run: Run) -> TimedRun:
    """A stored run as the core knows it, without its flags."""
    curve = decoded(bytes(run.trace.curve))
    peak = Value(run.peak_acceleration_g, run.peak_acceleration_u95_g)
    return TimedRun(
        kind=run.kind,  # type: ignore[arg-type]
        start_s=run.start_s,
        end_s=run.start_s + float(curve.since_s[-1]),
        complete=run.complete,
        slope_percent=value_of(run.slope_percent, run.slope_u95_percent),
        peak_acceleration_g=peak,
        rollout_s=value_of(run.rollout_s, run.rollout_u95_s),
        measures=[row.to_core() for row in run.measured.all()],
        splits=[row.to_core() for row in run.split_rows.all()],
        curve=curve,
        noise_mps=run.noise_mps,
    )


def corrected_times(run: Run, slope: bool, density: bool, wind: bool) -> dict[str, Any]:
    """Corrected times of a run, to what they refer, and why a part that was asked for could not be corrected."""
    air, load = air_of(run), road_load_of(run)
    missing = []
    if (density or wind) and load is None:
        missing.append("Air density and wind need the car's test mass: write it down on the car's page.")
    if density and air is None:
        missing.append("Air density needs outside temperature and pressure: write them down.")
    if wind and (run.wind_mps is None or run.heading_deg is None):
        missing.append("Wind needs its speed and direction, and a log with course.")
    correction = Correction(
        slope, density and air is not None, wind and run.wind_mps is not None, air or _wind_alone(run), load
    )
    done = corrected(timed(run), correction, run.heading_deg)
    return {
        "reference": reference(correction) if done.corrected_parts else "",
        "parts": list(done.corrected_parts),
        "missing": missing,
        "assumed": list(load.assumed) if load and set(done.corrected_parts) - {"slope"} else [],
        "measured": [
            {
                "name": row.name,
                "clock": row.clock,
                "time_s": row.corrected_time_s.value if row.corrected_time_s else None,
                "time_u95_s": row.corrected_time_s.u95 if row.corrected_time_s else None,
            }
            for row in (done.measures if done.corrected_parts else [])
        ],
    }


def _wind_alone(run: Run) -> Air:
    return Air(wind_mps=run.wind_mps or 0.0, wind_from_deg=run.wind_from_deg or 0.0)


def power_of(run: Run) -> dict[str, Any] | None:
    """Wheel power of a run against speed; None for a stop, without a test mass, or where the run is too short."""
    load = road_load_of(run)
    if load is None or run.kind == "stop":
        return None
    air = air_of(run) or _wind_alone(run)
    head_wind_mps = air.head_wind_mps(run.heading_deg) if run.heading_deg is not None else 0.0
    curve = decoded(bytes(run.trace.curve))
    found = wheel_power(curve, load, run.slope_percent or 0.0, air.density_kg_m3, head_wind_mps)
    return _power_json(found, load, air, head_wind_mps) if found else None


def _power_json(power: WheelPower, load: RoadLoad, air: Air, head_wind_mps: float) -> dict[str, Any]:
    return {
        "speed_mps": power.speed_mps.round(3).tolist(),
        "power_kw": (power.power_w / 1000).round(2).tolist(),
        "peak_kw": power.peak_w / 1000,
        "peak_metric_hp": power.peak_metric_hp,
        "peak_mechanical_hp": power.peak_mechanical_hp,
        "peak_at_mps": power.peak_at_mps,
        "tapers_from_mps": power.tapers_from_mps,
        "assumed": list(power.assumed),
        "mass_kg": load.mass_kg,
        "density_kg_m3": air.density_kg_m3,
        "density_altitude_m": density_altitude_m(air.density_kg_m3),
        "head_wind_mps": head_wind_mps,
    }
