"""What was recorded of a run: all that may differ between two groups beside the change itself."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class State:
    """The state of car, course and air at one run, SI units; None or empty where it was not recorded.

    `day` and `direction` say which runs were driven under the same sky and on the same slope; `hour` is the run's place
    in its day. `slope_survey` names the survey that a slope comes from; empty for that of the run's own altitude.
    """

    charge_percent: float | None = None
    battery_temp_c: float | None = None
    outside_temp_c: float | None = None
    density_kg_m3: float | None = None
    head_wind_mps: float | None = None
    slope_percent: float | None = None
    slope_u95_percent: float | None = None
    slope_survey: str = ""
    load_kg: float | None = None
    brake_temp_c: float | None = None
    tire_tread_mm: float | None = None
    tire_distance_km: float | None = None
    tire_pressure_kpa: float | None = None
    wheel_mass_kg: float | None = None
    rate_hz: float | None = None
    hour: float | None = None
    day: str = ""
    direction: str = ""
    surface: str = ""
    drive_mode: str = ""
    launch_aid: str = ""
    climate: str = ""
    receiver: str = ""
    tires: str = ""
    software: str = ""
    setup: str = ""
    car: str = ""


def hour_of(at: datetime) -> float:
    """Give the hour of a day at which a run was driven, to the second: runs are in their order by it."""
    return at.hour + at.minute / 60 + at.second / 3600
