"""What the invented season holds for studies: three more cars, and the days on which a question was driven out.

Each day is a story of its own, and none of its figures is anybody's: a sweep that steps down and one that does not,
brakes that fade and brakes that hold, three tires, roll-ons side by side, two receivers, modes, a year with a change
that nobody announced, and laps of a figure-eight.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from typing import Any

import numpy as np

from coombe_core.formats import write_log
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import Conditions, SimulatedCar
from coombe_core.simulating.circuit import figure_eight
from coombe_core.simulating.drive import Act, drive
from coombe_core.simulating.receiver import Receiver, receive
from coombe_core.simulating.scenarios import pull
from coombe_core.units import MPH_MPS
from demo.season import CAN_CLOCK_S, HEADING_DEG, RECEIVER, SLOPE_OUT_PERCENT, VIREO, DemoSetup

MARLET = SimulatedCar(mass_kg=2335, power_w=318_000, grip=0.9, cda_m2=0.72, ramp_s=0.14, brake_grip=0.93)
CORIN = SimulatedCar(mass_kg=1630, power_w=148_000, grip=0.8, cda_m2=0.55, ramp_s=0.18, brake_grip=0.96)
SKERRY = SimulatedCar(mass_kg=1485, power_w=236_000, grip=0.98, cda_m2=0.5, ramp_s=0.1, brake_grip=1.02)
CARS: dict[str, dict[str, object]] = {
    "Marlet": {
        **{"maker": "Hedrane", "model_year": 2026, "drive_layout": "all", "body": "SUV", "test_mass_kg": 2335},
        **{"mass_source": "weighed", "chemistry": "nickel", "power_kw": 350, "battery_kwh": 98},
    },
    "Corin": {
        **{"maker": "Oskavo", "model_year": 2025, "drive_layout": "front", "body": "hatchback", "test_mass_kg": 1630},
        **{"mass_source": "weighed per axle", "chemistry": "iron phosphate", "power_kw": 160, "battery_kwh": 54},
    },
    "Skerry": {
        **{"maker": "Tarnell", "model_year": 2024, "drive_layout": "rear", "body": "roadster", "test_mass_kg": 1485},
        **{"mass_source": "weighed", "chemistry": "nickel", "power_kw": 255, "battery_kwh": 64},
    },
}
WHEELS_21 = {"wheel_diameter_in": 21, "wheel_mass_kg": 31.5, "tire_size": "265/40 R21"}
WHEELS_17 = {"wheel_diameter_in": 17, "wheel_mass_kg": 19.5, "tire_size": "205/55 R17"}
WHEELS_18 = {"wheel_diameter_in": 18, "wheel_mass_kg": 20.5, "tire_size": "225/45 R18"}
SETUPS = (
    DemoSetup(
        *("Marlet", "Summer tires", date(2026, 3, 7), MARLET),
        {"software_version": "12.0", "tire_season": "summer", "tire_tread_mm": 6.9, **WHEELS_21},
    ),
    DemoSetup(
        *("Marlet", "All-season tires", date(2026, 9, 5), replace(MARLET, brake_grip=0.89, grip=0.87)),
        {"change": "tires", "software_version": "12.0", "tire_season": "all-season", "tire_tread_mm": 7.6, **WHEELS_21},
    ),
    DemoSetup(
        *("Marlet", "Winter tires on 21-inch", date(2026, 9, 18), replace(MARLET, brake_grip=0.79, grip=0.8)),
        {"change": "tires", "software_version": "12.0", "tire_season": "winter", "tire_tread_mm": 8.1, **WHEELS_21},
    ),
    DemoSetup(
        *("Corin", "As bought", date(2026, 3, 14), CORIN),
        {"software_version": "2.4", "tire_season": "summer", "tire_tread_mm": 6.1, **WHEELS_17},
    ),
    DemoSetup(
        *("Skerry", "From new", date(2026, 3, 1), SKERRY),
        {"software_version": "5.5", "tire_season": "summer", "tire_tread_mm": 6.4, **WHEELS_18},
    ),
)
# Cabin noise at a steady 80 mph in dB, as a hand-held meter showed it: setup, day, readings.
NOISE = (
    ("Summer tires", date(2026, 8, 8), (67.9, 68.2, 68.0)),
    ("Winter tires on 21-inch", date(2026, 9, 19), (69.6, 69.9)),
    ("As bought", date(2026, 8, 15), (70.7, 70.4, 70.8)),
    ("From new", date(2026, 6, 6), (73.1, 72.8)),
)
PULL = pull(66 * MPH_MPS)
STOP = [Act("rest", 3), Act("gentle", to_mps=29.2, pace_mps2=2.4), Act("hold", 1.5), Act("brake"), Act("rest", 2)]
ROLL_ON = [
    *(Act("gentle", to_mps=27 * MPH_MPS, pace_mps2=1.6), Act("hold", 2.5), Act("launch", to_mps=73 * MPH_MPS)),
    *(Act("coast", 0.8), Act("gentle", to_mps=0.0, pace_mps2=2.2), Act("rest", 2)),
]
WINDSHIELD, ROOF = RECEIVER, "roof receiver, 10 Hz"
RECEIVERS = ((WINDSHIELD, "3.2", "its manual"), (ROOF, "1.9", "its maker, by letter"))
STEPS_DOWN_AT, STEPPED = 66.0, 0.94  # the Marlet's boost ends there, and leaves so much of its power
FADED = (1.0, 0.985, 0.972, 0.956, 0.94, 0.925)
MODES = {"Calm": 0.72, "Normal": 0.93, "Keen": 1.0}
WARMTH_C = (9.0, 16.0, 23.0, 30.0, 37.0, 44.0)
YEAR = ((3, 14), (4, 4), (4, 25), (5, 16), (6, 6), (6, 27), (7, 18), (8, 8), (9, 12), (10, 10))
UNANNOUNCED = (7, 1)  # since then with a twentieth more power


@dataclass(frozen=True)
class TriedLog:
    """One log with the conditions that every run of it shares, and its CAN log."""

    name: str
    setup: str
    data: bytes
    conditions: dict[str, Any]
    can_log: bytes | None = None


@dataclass
class _Day:
    """What a day's logs share."""

    setup: str
    begins: datetime
    seed: int
    noted: dict[str, Any] = field(default_factory=dict)

    def log(
        self,
        name: str,
        after_min: float,
        car: SimulatedCar,
        acts: Sequence[Act],
        charge_percent: float = 90.0,
        battery_temp_c: float = 43.0,
        with_can: bool = False,
        **noted: Any,
    ) -> TriedLog:
        """A log of one drive as the windshield receiver saw it."""
        begins = self.begins + timedelta(minutes=after_min)
        draw = np.random.default_rng([self.seed, round(after_min * 10)])
        driven = replace(car, power_w=car.power_w * draw.normal(1, 0.004), grip=car.grip * draw.normal(1, 0.004))
        motion = drive(driven, Conditions(charge_percent, battery_temp_c, SLOPE_OUT_PERCENT), [*acts], HEADING_DEG)
        receiver = Receiver(latitude_deg=51.31, longitude_deg=-3.02, start_utc=begins)
        data = write_log(receive(motion, receiver, int(draw.integers(1 << 31))), "nmea")
        sent = frames(motion, driven, CAN_CLOCK_S, charge_percent, battery_temp_c) if with_can else None
        can_log = write_can_log("candump", sent) if sent else None
        conditions = {
            **{
                "charge_before_percent": charge_percent,
                "battery_temp_before_c": battery_temp_c,
                "receiver": WINDSHIELD,
            },
            **{"occupants": 1, "driver": "R. Quill", "surface": "dry asphalt", "outside_temp_c": 18.0},
            **{"pressure_hpa": 1012.0, "humidity_percent": 62.0, "wind_mps": 0.8, "wind_from_deg": HEADING_DEG},
        }
        title = f"{begins:%Y-%m-%d}-{name}.nmea"
        return TriedLog(title, self.setup, data, conditions | self.noted | noted, can_log)


def _at(month: int, day: int, hour: int = 9) -> datetime:
    return datetime(2026, month, day, hour, tzinfo=UTC)


def logs() -> Iterator[TriedLog]:
    """Every log, story by story."""
    yield from _sweeps()
    yield from _stops()
    yield from _roll_ons()
    yield from _receivers()
    yield from _modes()
    yield from _warm_up()
    yield from _year()
    yield from _laps()


def _sweeps() -> Iterator[TriedLog]:
    for setup, car, day in (("Summer tires", MARLET, _at(8, 8)), ("As bought", CORIN, _at(8, 15))):
        of_day = _Day(setup, day, 7100 + day.day)
        for place in range(9):
            charge = 90.0 - 10.0 * place
            stepped = car is MARLET and charge < STEPS_DOWN_AT
            driven = replace(car, power_w=car.power_w * STEPPED) if stepped else car
            warm_c = 42.0 - 0.4 * place
            name = f"{car_name(setup)}-sweep-{place + 1}"
            yield of_day.log(
                name, 35.0 * place, driven, PULL, charge, warm_c, with_can=car is MARLET and place % 2 == 0
            )


def _stops() -> Iterator[TriedLog]:
    fading = _Day("Summer tires", _at(8, 22), 7201)
    for place, share in enumerate(FADED):
        braked = replace(MARLET, brake_grip=MARLET.brake_grip * share)
        yield fading.log(f"marlet-stop-{place + 1}", 4.0 * place, braked, STOP, brake_temp_c=90.0 + 55.0 * place)
    yield _Day("As bought", _at(8, 22, 11), 7202).log("corin-stops", 0.0, CORIN, STOP * 6)
    for setup, day, outside_c in (
        ("All-season tires", _at(9, 12), 19.0),
        ("Winter tires on 21-inch", _at(9, 19), 17.0),
        ("Summer tires", _at(9, 26), 18.0),
    ):
        simulated = next(each.simulated for each in SETUPS if each.name == setup)
        name = f"marlet-{setup.split()[0].lower()}-stops"
        yield _Day(setup, day, 7210 + day.day).log(name, 0.0, simulated, STOP * 4, outside_temp_c=outside_c)


def _roll_ons() -> Iterator[TriedLog]:
    vireo = replace(VIREO, power_w=VIREO.power_w * 1.06)
    for setup, car, hour in (("Summer tires", MARLET, 9), ("As bought", CORIN, 10), ("7.2.1 on 20-inch", vireo, 11)):
        name = f"{car_name(setup)}-roll-ons"
        yield _Day(setup, _at(8, 29, hour), 7300 + hour).log(name, 0.0, car, [Act("rest", 2), *ROLL_ON * 3])


def _receivers() -> Iterator[TriedLog]:
    """Five pulls as two receivers saw them, of which one shows a little less speed."""
    day = _Day("As bought", _at(7, 18), 7401)
    motion = drive(CORIN, Conditions(88.0, 42.0, SLOPE_OUT_PERCENT), PULL * 5, HEADING_DEG)
    for name, rate_hz, share in ((WINDSHIELD, 25.0, 1.0), (ROOF, 10.0, 0.9965)):
        receiver = Receiver(rate_hz=rate_hz, latitude_deg=51.31, longitude_deg=-3.02, start_utc=day.begins)
        trace = receive(motion, receiver, 31)
        data = write_log(replace(trace, speed_mps=trace.speed_mps * share), "nmea")
        of_log = day.log("", 0.0, CORIN, [Act("rest", 1)], 88.0, 42.0).conditions | {"receiver": name}
        yield TriedLog(f"2026-07-18-corin-{name.split()[0]}.nmea", day.setup, data, of_log)


def _modes() -> Iterator[TriedLog]:
    day = _Day("Summer tires", _at(7, 25), 7501)
    for round_ in range(3):
        for place, (mode, share) in enumerate(MODES.items()):
            after_min, car = 20.0 * round_ + 6.0 * place, replace(MARLET, power_w=MARLET.power_w * share)
            yield day.log(f"marlet-{mode.lower()}-{round_ + 1}", after_min, car, PULL, 88.0 - round_, drive_mode=mode)


def _warm_up() -> Iterator[TriedLog]:
    day = _Day("As bought", _at(10, 3), 7601)
    for place, warm_c in enumerate(WARMTH_C):
        yield day.log(f"corin-warm-up-{place + 1}", 25.0 * place, CORIN, PULL, 86.0 - place, warm_c)


def _year() -> Iterator[TriedLog]:
    for place, (month, day) in enumerate(YEAR):
        car = replace(SKERRY, power_w=SKERRY.power_w * (1.05 if (month, day) >= UNANNOUNCED else 1.0))
        yield _Day("From new", _at(month, day, 8), 7700 + place).log(f"skerry-{place + 1}", 0.0, car, PULL * 2, 91.0)


def _laps() -> Iterator[TriedLog]:
    trace = figure_eight([13.6, 14.1, 14.5, 14.7, 14.4, 14.6], 30.0, _at(9, 26, 14))
    yield TriedLog(
        "2026-09-26-skerry-figure-eight.nmea", "From new", write_log(trace, "nmea"), {"receiver": WINDSHIELD}
    )


def car_name(setup: str) -> str:
    """The car of a setup, as logs are named."""
    known = {each.name: each.car for each in SETUPS}
    return known.get(setup, "Vireo").lower()


# Title, kind, measure, clock, and for every series its name, setup, and the days that it is of.
Rule = tuple[str, str, tuple[int, int] | None, str]
STUDIES: tuple[tuple[str, str, str, str, tuple[Rule, ...]], ...] = (
    (
        *("How do they hold up from 90 to 10 %?", "charge sweep", "0-60 mph", "rollout"),
        (("Marlet", "Summer tires", (8, 8), ""), ("Corin", "As bought", (8, 15), "")),
    ),
    (
        "What is a warm battery worth to the Corin?",
        "warm-up",
        "0-60 mph",
        "rollout",
        (("Corin", "As bought", (10, 3), ""),),
    ),
    ("Can the Corin repeat it?", "repeatability", "0-60 mph", "rollout", (("Corin", "As bought", (7, 18), ""),)),
    (
        *("Do brakes hold for six stops?", "braking series", "60-0 mph", "speed"),
        (("Marlet", "Summer tires", (8, 22), ""), ("Corin", "As bought", (8, 22), "")),
    ),
    (
        *("Three tires on the Marlet", "tires", "60-0 mph", "speed"),
        (
            ("summer", "Summer tires", (9, 26), ""),
            ("all-season", "All-season tires", (9, 12), ""),
            ("winter", "Winter tires on 21-inch", (9, 19), ""),
        ),
    ),
    (
        *("Three cars from 30 mph", "roll-ons", "30-70 mph", "speed"),
        (
            ("Vireo", "7.2.1 on 20-inch", (8, 29), ""),
            ("Marlet", "Summer tires", (8, 29), ""),
            ("Corin", "As bought", (8, 29), ""),
        ),
    ),
    ("What do the Marlet's modes do?", "modes", "0-60 mph", "rollout", (("Marlet", "Summer tires", (7, 25), ""),)),
    ("What does a sprint cost the Marlet?", "energy", "0-60 mph", "rollout", (("Marlet", "Summer tires", (8, 8), ""),)),
    (
        *("Do windshield and roof agree?", "receivers", "0-60 mph", "rollout"),
        (("windshield", "As bought", (7, 18), WINDSHIELD), ("roof", "As bought", (7, 18), ROOF)),
    ),
    (
        "What does 100 on the dash mean?",
        "dashboard speed",
        "0-60 mph",
        "rollout",
        (("Marlet", "Summer tires", (8, 8), ""),),
    ),
    ("The Skerry's year", "history", "0-60 mph", "rollout", (("Skerry", "From new", None, ""),)),
)
LAPS_TITLE, LAPS_LOG = "Figure-eight of 30 m circles", "2026-09-26-skerry-figure-eight.nmea"
