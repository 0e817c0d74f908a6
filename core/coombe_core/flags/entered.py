"""Questions about what a person enters: values that contradict something known, or look like another unit's.

A question never refuses: the tester may be right. All values are SI; a suggestion is what was probably meant.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from dataclasses import field as default
from datetime import date
from typing import Any, Literal

from coombe_core.units import POUND_KG, PSI_KPA, celsius, fahrenheit

CHARGE_SLACK_PERCENT = 0.6  # a dashboard shows whole points
HEATING_K_MIN = 1.5  # faster than any battery warms or cools between two runs
NEIGHBOR_SLACK_K = 4.0
CAN_SLACK_K = 3.0
FITS_K = 6.0  # read as the other unit it must come this near to what is known
COLD_BATTERY_C, HOT_BATTERY_C = 12.0, 58.0  # beyond, a battery is not launched
USUAL_BATTERY_C = (15.0, 55.0)
OUTSIDE_SLACK_K = 8.0
USUAL_MASS_KG = (1000.0, 3500.0)
USUAL_LOAD_KG = 600.0
USUAL_PRESSURE_KPA = (150.0, 400.0)

BATTERY = ("battery_temp_before_c", "battery_temp_after_c")
MASSES = ("test_mass_kg",)
PRESSURES = ("tire_pressure_kpa", "tire_pressure_hot_kpa")
DATES = ("since", "day")
Code = Literal[
    "charge rises", "other scale", "unlike can", "unlike neighbor", "unlike weather", "mass", "pressure", "future"
]


@dataclass(frozen=True)
class Known:
    """What is known beside: of CAN data, of the run nearest in time, of the weather, and which day it is.

    `neighbor_min` is how many minutes after this run the nearest one was; negative where it was before.
    """

    can_battery_c: float | None = None
    neighbor_battery_c: float | None = None
    neighbor_min: float = 0.0
    outside_temp_c: float | None = None
    today: date | None = None


@dataclass(frozen=True)
class Asked:
    """A question about a field: its code and numbers, and the value that was probably meant, where there is one."""

    field: str
    code: Code
    numbers: Mapping[str, float] = default(default_factory=dict)
    suggestion: float | None = None


def questions(values: Mapping[str, Any], known: Known) -> list[Asked]:
    """What to ask about values (SI, by field) that a person enters."""
    return [asked for rule in RULES for asked in rule(values, known)]


def _charge(values: Mapping[str, Any], known: Known) -> Iterator[Asked]:
    before, after = values.get("charge_before_percent"), values.get("charge_after_percent")
    if before is not None and after is not None and after > before + CHARGE_SLACK_PERCENT:
        yield Asked("charge_after_percent", "charge rises", {"before": before, "after": after})


def _battery(values: Mapping[str, Any], known: Known) -> Iterator[Asked]:
    for name in BATTERY:
        value = values.get(name)
        if value is None:
            continue
        expected, slack, code = _expected_battery(known)
        if expected is not None and abs(value - expected) > slack:
            yield Asked(
                name, code, _apart(value, expected, known), _rescaled(value, expected - FITS_K, expected + FITS_K)
            )
        elif expected is None and not COLD_BATTERY_C <= value <= HOT_BATTERY_C:
            meant = _rescaled(value, *USUAL_BATTERY_C)
            if meant is not None and not _is_as_cold_outside(value, values, known):
                yield Asked(name, "other scale", {"value": value}, meant)


def _expected_battery(known: Known) -> tuple[float | None, float, Code]:
    """The temperature that a battery should have (°C), how far it may be from that (K), and by what."""
    if known.can_battery_c is not None:
        return known.can_battery_c, CAN_SLACK_K, "unlike can"
    slack = NEIGHBOR_SLACK_K + HEATING_K_MIN * abs(known.neighbor_min)
    return known.neighbor_battery_c, slack, "unlike neighbor"


def _apart(value: float, expected: float, known: Known) -> dict[str, float]:
    return {"value": value, "expected": expected, "minutes": known.neighbor_min}


def _is_as_cold_outside(value: float, values: Mapping[str, Any], known: Known) -> bool:
    """Whether a cold battery stood in air as cold."""
    outside = values.get("outside_temp_c")
    outside = known.outside_temp_c if outside is None else outside
    return outside is not None and value < COLD_BATTERY_C and outside < value + NEIGHBOR_SLACK_K


def _outside(values: Mapping[str, Any], known: Known) -> Iterator[Asked]:
    value, expected = values.get("outside_temp_c"), known.outside_temp_c
    if value is not None and expected is not None and abs(value - expected) > OUTSIDE_SLACK_K:
        meant = _rescaled(value, expected - OUTSIDE_SLACK_K, expected + OUTSIDE_SLACK_K)
        yield Asked("outside_temp_c", "unlike weather", {"value": value, "expected": expected}, meant)


def _rescaled(value_c: float, low_c: float, high_c: float) -> float | None:
    """A temperature whose number was meant in the other scale; None where neither reading is between two others."""
    readings = (fahrenheit(value_c), celsius(value_c))  # typed as °F and meant as °C, and the other way
    return next((reading for reading in readings if low_c <= reading <= high_c), None)


def _mass(values: Mapping[str, Any], known: Known) -> Iterator[Asked]:
    low, high = USUAL_MASS_KG
    for name in MASSES:
        value = values.get(name)
        if value is not None and not low <= value <= high:
            yield from _in_units(name, "mass", value, (POUND_KG, 1 / POUND_KG), USUAL_MASS_KG)
    load = values.get("load_kg")
    if load is not None and load > USUAL_LOAD_KG:
        yield Asked("load_kg", "mass", {"value": load}, load * POUND_KG)


def _pressure(values: Mapping[str, Any], known: Known) -> Iterator[Asked]:
    low, high = USUAL_PRESSURE_KPA
    factors = (100.0, PSI_KPA, 100.0 / PSI_KPA, 1 / PSI_KPA)  # bar or psi typed as kPa; bar or kPa typed as psi
    for name in PRESSURES:
        value = values.get(name)
        if value is not None and not low <= value <= high:
            yield from _in_units(name, "pressure", value, factors, USUAL_PRESSURE_KPA)


def _in_units(
    name: str, code: Code, value: float, factors: tuple[float, ...], usual: tuple[float, float]
) -> Iterator[Asked]:
    """A question with the first unit in which the number is usual; none where it is usual in none."""
    meant = next((value * factor for factor in factors if usual[0] <= value * factor <= usual[1]), None)
    if meant is not None:
        yield Asked(name, code, {"value": value}, meant)


def _dates(values: Mapping[str, Any], known: Known) -> Iterator[Asked]:
    for name in DATES:
        value = values.get(name)
        if known.today is not None and isinstance(value, date) and value > known.today:
            yield Asked(name, "future", {"days": float((value - known.today).days)})


RULES: tuple[Callable[[Mapping[str, Any], Known], Iterator[Asked]], ...] = (
    *(_charge, _battery, _outside, _mass, _pressure, _dates),
)
