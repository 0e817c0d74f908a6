"""What was recorded of runs, as the core's comparison takes it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db.models import QuerySet

from coombe_core.comparing.state import State, hour_of
from coombe_core.physics.air import Air, air_density_kg_m3
from coombe_core.physics.course import directions_of
from courses.zones import local
from runs.models import Run

OCCUPANT_KG = 75.0
FIELDS = (
    *("id", "start_utc", "heading_deg", "slope_percent", "slope_u95_percent", "direction", "surface", "drive_mode"),
    *("launch_aid", "climate_on", "receiver", "charge_before_percent", "battery_temp_before_c", "outside_temp_c"),
    *("pressure_hpa", "humidity_percent", "wind_mps", "wind_from_deg", "occupants", "load_kg", "brake_temp_c"),
    *("course__name", "course__slope_percent", "course__time_zone", "log__rate_hz", "setup_id", "setup__name"),
    *("setup__software_version", "setup__wheel_mass_kg", "setup__tire_season", "setup__tire_size"),
    *("setup__tire_pressure_kpa", "setup__tire_distance_km", "setup__tire_tread_mm", "setup__car_id"),
)


def states_of(runs: QuerySet[Run]) -> dict[int, State]:
    """The state of each run by its number."""
    rows = list(runs.order_by("start_utc").values(*FIELDS))
    directions = [row["direction"] for row in rows]
    if not all(directions):
        directions = directions_of([row["heading_deg"] for row in rows])
    return {row["id"]: _state(row, direction) for row, direction in zip(rows, directions, strict=True)}


def _state(row: Mapping[str, Any], direction: str) -> State:
    start = local(row["start_utc"], row["course__time_zone"])
    surveyed = row["course__slope_percent"] is not None
    return State(
        charge_percent=row["charge_before_percent"],
        battery_temp_c=row["battery_temp_before_c"],
        outside_temp_c=row["outside_temp_c"],
        density_kg_m3=_density(row),
        head_wind_mps=_head_wind(row),
        slope_percent=row["slope_percent"],
        slope_u95_percent=row["slope_u95_percent"],
        slope_survey=row["course__name"] if surveyed else "",
        load_kg=_load(row),
        brake_temp_c=row["brake_temp_c"],
        tire_tread_mm=row["setup__tire_tread_mm"],
        tire_distance_km=row["setup__tire_distance_km"],
        tire_pressure_kpa=row["setup__tire_pressure_kpa"],
        wheel_mass_kg=row["setup__wheel_mass_kg"],
        rate_hz=round(row["log__rate_hz"]),
        hour=hour_of(start),
        day=f"{start:%Y-%m-%d}",
        direction=direction,
        surface=row["surface"],
        drive_mode=row["drive_mode"],
        launch_aid=_word(row["launch_aid"]),
        climate=_word(row["climate_on"]),
        receiver=row["receiver"],
        tires=f"{row['setup__tire_season']} {row['setup__tire_size']}".strip(),
        software=row["setup__software_version"],
        setup=str(row["setup_id"]),
        car=str(row["setup__car_id"]),
    )


def _density(row: Mapping[str, Any]) -> float | None:
    if row["pressure_hpa"] is None or row["outside_temp_c"] is None:
        return None
    return air_density_kg_m3(row["pressure_hpa"], row["outside_temp_c"], row["humidity_percent"] or 0.0)


def _head_wind(row: Mapping[str, Any]) -> float | None:
    if row["wind_mps"] is None or row["wind_from_deg"] is None or row["heading_deg"] is None:
        return None
    return Air(wind_mps=row["wind_mps"], wind_from_deg=row["wind_from_deg"]).head_wind_mps(row["heading_deg"])


def _load(row: Mapping[str, Any]) -> float | None:
    """Beside the driver."""
    if row["occupants"] is None and row["load_kg"] is None:
        return None
    return OCCUPANT_KG * ((row["occupants"] or 1) - 1) + (row["load_kg"] or 0.0)


def _word(on: bool | None) -> str:
    return "" if on is None else "on" if on else "off"
