"""Numbers with their units, in both families where a reader may want either."""

from __future__ import annotations

from coombe_core.units import FOOT_M, KMH_MPS, MILE_M, MPH_MPS, POUND_KG, fahrenheit

OTHER_UNITS = {"m/s": ("mph", MPH_MPS), "m": ("ft", FOOT_M), "kg": ("lb", POUND_KG), "km": ("mi", MILE_M / 1000)}


def both_units(value: float, unit: str, digits: int, sign: str = "") -> str:
    """A value in its SI unit and, in parentheses, in the other family's where that has one.

    >>> both_units(30.0, "°C", 0)
    '30 °C (86 °F)'
    >>> both_units(2.0, "s", 2)
    '2.00 s'
    """
    spec = f"{sign}.{digits}f"
    first = f"{value:{spec}} {unit}"
    if unit == "°C":
        return f"{first} ({fahrenheit(value):{spec}} °F)"
    other = OTHER_UNITS.get(unit)
    return f"{first} ({value / other[1]:{spec}} {other[0]})" if other else first


def temperature(celsius: float) -> str:
    """A temperature in whole degrees of both scales."""
    return both_units(celsius, "°C", 0)


def mass(kg: float) -> str:
    """A change of mass in both units, with its sign."""
    return both_units(kg, "kg", 1, "+")


def speed(mps: float) -> str:
    """A speed as drivers say it.

    >>> speed(26.8224)
    '60 mph (97 km/h)'
    """
    return f"{mps / MPH_MPS:.0f} mph ({mps / KMH_MPS:.0f} km/h)"


def counted(count: int, name: str, plural: str = "") -> str:
    """`1 day`, `3 days`."""
    return f"{count} {name if count == 1 else plural or f'{name}s'}"
