"""An invented season: two cars, their setups, one strip, and what was driven on each day.

Nothing here is real. The cars differ between setups by what the change would do (power, grip, mass at the rim), and
the runs by a driver's and a day's scatter, all from fixed seeds.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import numpy as np

from coombe_core.formats import write_log
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.drive import Act, drive
from coombe_core.simulating.receiver import Receiver, receive
from coombe_core.simulating.scenarios import LIFTED, clean_run, pull, turn_round
from coombe_core.units import MPH_MPS

VIREO = SimulatedCar(mass_kg=2080, power_w=262_000, grip=0.93, cda_m2=0.58, ramp_s=0.12, ramp_shape="smooth")
LUMEN = SimulatedCar(mass_kg=1745, power_w=171_000, grip=0.78, cda_m2=0.52, ramp_s=0.16, ramp_shape="first-order")
HEADING_DEG = 68.0
SLOPE_OUT_PERCENT = 0.24
COURSE = "Brackmoor strip"
RECEIVER = "windshield receiver, 25 Hz"


@dataclass(frozen=True)
class DemoSetup:
    """A setup, what the change does to the simulated car, and what is recorded about it."""

    car: str
    name: str
    since: date
    simulated: SimulatedCar
    written: dict[str, object]


CARS: dict[str, dict[str, object]] = {
    "Vireo": {
        "maker": "Tarnell",
        "model_year": 2025,
        "drive_layout": "all",
        "body": "sedan",
        "test_mass_kg": 2080,
        "mass_source": "weighed",
        "chemistry": "nickel",
        "hottest_battery_c": 50,
        "power_kw": 280,
        "battery_kwh": 82,
        "cda_m2": 0.58,
        "cda_source": "coast-down, own",
        "notes": "Weighed with driver and receiver.",
    },
    "Lumen": {
        "maker": "Oskavo",
        "model_year": 2024,
        "drive_layout": "rear",
        "body": "hatchback",
        "test_mass_kg": 1745,
        "mass_source": "stated by the maker",
        "chemistry": "iron phosphate",
        "power_kw": 185,
        "battery_kwh": 58,
        "cda_m2": 0.52,
    },
}

WHEELS_19 = {"wheel_diameter_in": 19, "wheel_mass_kg": 24.5, "tire_season": "summer", "tire_size": "245/45 R19"}
WHEELS_20 = {"wheel_diameter_in": 20, "wheel_mass_kg": 28.0, "tire_season": "summer", "tire_size": "255/40 R20"}
WHEELS_18 = {"wheel_diameter_in": 18, "wheel_mass_kg": 22.0, "tire_season": "summer", "tire_size": "225/50 R18"}
WINTER_18 = WHEELS_18 | {"tire_season": "winter"}
SETUPS = (
    DemoSetup(
        *("Vireo", "Delivered, 7.1", date(2026, 3, 2), VIREO),
        {"software_version": "7.1", "tire_pressure_kpa": 290, "tire_tread_mm": 6.8, **WHEELS_19},
    ),
    DemoSetup(
        *("Vireo", "Software 7.2", date(2026, 4, 20), replace(VIREO, power_w=VIREO.power_w * 1.06)),
        {
            "change": "software update",
            "change_note": "7.1 to 7.2, claimed quicker from rest",
            "confirmed_by": "version screen after restart",
            "can_undo": False,
            "software_version": "7.2",
            "tire_pressure_kpa": 290,
            "tire_tread_mm": 6.5,
            **WHEELS_19,
        },
    ),
    DemoSetup(
        *("Vireo", "Software 7.2.1", date(2026, 6, 8), replace(VIREO, power_w=VIREO.power_w * 1.06)),
        {
            "change": "software update",
            "change_note": "7.2 to 7.2.1, arrived unannounced",
            "confirmed_by": "version screen",
            "software_version": "7.2.1",
            "tire_pressure_kpa": 290,
            "tire_tread_mm": 6.2,
            **WHEELS_19,
        },
    ),
    DemoSetup(
        "Vireo",
        "7.2.1 on 20-inch",
        date(2026, 7, 18),
        replace(VIREO, power_w=VIREO.power_w * 1.06, rotating_mass_factor=1.065),
        {"change": "wheels", "software_version": "7.2.1", "tire_pressure_kpa": 290, "tire_tread_mm": 7.0, **WHEELS_20},
    ),
    DemoSetup(
        *("Lumen", "Delivered", date(2026, 2, 14), LUMEN),
        {"software_version": "3.0", "tire_pressure_kpa": 260, "tire_tread_mm": 6.0, **WHEELS_18},
    ),
    DemoSetup(
        *("Lumen", "Smooth covers", date(2026, 5, 16), LUMEN),
        {
            "change": "other",
            "change_note": "flat wheel covers",
            "software_version": "3.0",
            "tire_pressure_kpa": 260,
            "tire_tread_mm": 5.8,
            "modifications": "flat covers on all four wheels",
            **WHEELS_18,
        },
    ),
    DemoSetup(
        *("Lumen", "Power unlock", date(2026, 7, 4), replace(LUMEN, power_w=LUMEN.power_w * 1.12)),
        {
            "change": "paid unlock",
            "change_note": "bought in the car's menu",
            "confirmed_by": "menu entry changed",
            "can_undo": False,
            "price": 890,
            "claimed_measure": "0-60 mph",
            "claimed_gain_s": 0.5,
            "currency": "EUR",
            "software_version": "3.1",
            "tire_pressure_kpa": 260,
            "tire_tread_mm": 5.6,
            **WHEELS_18,
        },
    ),
    DemoSetup(
        *("Lumen", "Winter tires", date(2026, 10, 24), replace(LUMEN, power_w=LUMEN.power_w * 1.12, brake_grip=0.82)),
        {"change": "tires", "software_version": "3.1", "tire_pressure_kpa": 250, "tire_tread_mm": 8.0, **WINTER_18},
    ),
)


@dataclass(frozen=True)
class Outing:
    """A day's runs on one setup: logs of an out-and-back pair each, charge falling as they go."""

    setup: str
    begins: datetime
    logs: int
    charge_percent: float
    battery_temp_c: float
    outside_temp_c: float
    wind_mps: float
    kind: str = "pulls"
    with_can: bool = False


def _at(month: int, day: int, hour: int, minute: int = 0) -> datetime:
    return datetime(2026, month, day, hour, minute, tzinfo=UTC)


OUTINGS = (
    Outing("Delivered, 7.1", _at(4, 11, 8, 40), 3, 96, 44, 12, 1.4),
    Outing("Delivered, 7.1", _at(4, 18, 9, 5), 2, 95, 45, 14, 0.8, "strip"),
    Outing("Software 7.2", _at(4, 25, 8, 50), 3, 96, 45, 13, 1.1),
    Outing("Software 7.2", _at(5, 9, 9, 10), 2, 95, 44, 15, 1.6, "strip", with_can=True),
    Outing("Software 7.2.1", _at(6, 13, 8, 30), 3, 95, 44, 17, 0.9),
    Outing("7.2.1 on 20-inch", _at(7, 25, 8, 20), 3, 96, 46, 19, 1.2),
    Outing("7.2.1 on 20-inch", _at(7, 25, 10, 40), 1, 62, 41, 22, 1.9, "lifted"),
    Outing("Delivered", _at(5, 2, 9, 30), 3, 72, 33, 11, 2.0),
    Outing("Delivered", _at(5, 9, 8, 0), 5, 95, 40, 13, 0.9, "sweep"),
    Outing("Smooth covers", _at(5, 23, 9, 0), 3, 96, 43, 15, 1.0),
    Outing("Power unlock", _at(7, 11, 8, 45), 3, 95, 44, 20, 0.7),
    Outing("Power unlock", _at(7, 11, 10, 15), 1, 88, 46, 23, 1.1, "strip"),
    Outing("Winter tires", _at(11, 7, 10, 0), 2, 94, 40, 5, 1.5, "strip"),
)
PULL_TO_MPS = 66 * MPH_MPS
CHARGE_A_RUN = 0.8
SWEEP_STEP = 9.0
SWEEP_BATTERY_C = (44.0, 35.0, 42.0, 32.0, 39.0)  # heated and left to cool in between
CAN_CLOCK_S = 86_012.4  # where the car's own clock stood when its CAN log began


@dataclass(frozen=True)
class DemoLog:
    """One log with the conditions of each of its standing starts, in order, and the CAN log of the first of a day."""

    name: str
    data: bytes
    outing: Outing
    conditions: list[dict[str, Any]]
    can_log: bytes | None = None


def logs() -> Iterator[DemoLog]:
    """Every log of the season, in the order of time."""
    setups = {setup.name: setup for setup in SETUPS}
    for number, outing in enumerate(sorted(OUTINGS, key=lambda outing: outing.begins)):
        draw = np.random.default_rng(4200 + number)
        day = setups[outing.setup].simulated
        day = replace(day, power_w=day.power_w * draw.normal(1, 0.003), grip=day.grip * draw.normal(1, 0.003))
        for index in range(outing.logs):
            yield _log(outing, index, day, draw)


def _log(outing: Outing, index: int, day: SimulatedCar, draw: np.random.Generator) -> DemoLog:
    car = replace(day, power_w=day.power_w * draw.normal(1, 0.004), grip=day.grip * draw.normal(1, 0.006))
    charge, battery_temp_c = outing.charge_percent - 2 * CHARGE_A_RUN * index, outing.battery_temp_c + 0.6 * index
    if outing.kind == "sweep":
        charge, battery_temp_c = outing.charge_percent - SWEEP_STEP * index, SWEEP_BATTERY_C[index]
    state = Conditions(charge, battery_temp_c, SLOPE_OUT_PERCENT, 0.3 * outing.wind_mps)
    pause_min = 60 if outing.kind == "sweep" else 9  # a rung of a sweep is driven down to
    begins = outing.begins + timedelta(minutes=pause_min * index)
    rate_hz = 10.0 if outing.kind == "lifted" else 25.0
    receiver = Receiver(rate_hz=rate_hz, latitude_deg=51.31, longitude_deg=-3.02, start_utc=begins)
    motion = drive(car, state, _acts(outing.kind), HEADING_DEG)
    trace = receive(motion, receiver, int(draw.integers(1 << 31)))
    as_csv = outing.kind == "strip"
    title = outing.setup.split(",")[0] + (" sweep" if outing.kind == "sweep" else "")
    name = f"{begins:%Y-%m-%d}-{title.lower().replace(' ', '-')}-{index + 1}"
    data = write_log(trace, "csv") if as_csv else write_log(trace, "nmea")
    conditions = [_written(outing, state, way, charge - way * CHARGE_A_RUN) for way in range(2)]
    can_log = None
    if outing.with_can and index == 0:
        can_log = write_can_log("candump", frames(motion, car, CAN_CLOCK_S, charge, state.battery_temp_c))
    return DemoLog(f"{name}.{'csv' if as_csv else 'nmea'}", data, outing, conditions, can_log)


def _acts(kind: str) -> list[Act]:
    if kind == "strip":
        away = [Act("gentle", to_mps=8.0, pace_mps2=1.5), *turn_round()]
        return [*clean_run(), *away, *clean_run()]
    if kind == "lifted":
        return [*LIFTED, *pull(PULL_TO_MPS)]
    return [*pull(PULL_TO_MPS), *pull(PULL_TO_MPS)]


def _written(outing: Outing, state: Conditions, way: int, charge: float) -> dict[str, Any]:
    """What the tester recorded of the way out (0) or back (1)."""
    return {
        "charge_before_percent": round(charge, 1),
        "charge_after_percent": round(charge - CHARGE_A_RUN, 1),
        "battery_temp_before_c": round(state.battery_temp_c + 0.3 * way, 1),
        "battery_temp_after_c": round(state.battery_temp_c + 0.3 * way + 0.7, 1),
        "drive_mode": "Sport",
        "launch_aid": False,
        "climate_on": False,
        "occupants": 1,
        "driver": "R. Quill",
        "receiver": RECEIVER,
        "receiver_mount": "windshield, top center",
        "outside_temp_c": outing.outside_temp_c,
        "pressure_hpa": 1009.0 + outing.begins.day % 9,
        "humidity_percent": 55.0 + outing.begins.day % 20,
        "wind_mps": outing.wind_mps,
        "wind_from_deg": HEADING_DEG,
        "surface": "dry asphalt",
    }
