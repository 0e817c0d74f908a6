"""Numbers with their units, in both families where a reader may want either."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from coombe_core.units import FOOT_M, KMH_MPS, MILE_M, MPH_MPS, POUND_KG, fahrenheit

OTHER_UNITS = {"m/s": ("mph", MPH_MPS), "m": ("ft", FOOT_M), "kg": ("lb", POUND_KG), "km": ("mi", MILE_M / 1000)}


def signed(value: float, digits: int) -> str:
    """A number with its sign, a real minus.

    >>> signed(-0.124, 2)
    '−0.12'
    """
    return _number(value, f"+.{digits}f")


def _number(value: float, spec: str) -> str:
    """A number with a real minus; what rounds to zero has no sign.

    >>> _number(-0.004, "+.2f")
    '0.00'
    """
    text = f"{value:{spec}}"
    return text.lstrip("+-") if float(text) == 0 else text.replace("-", "−")


def capitalized(name: str) -> str:
    """A name as a sentence begins with it."""
    return name[:1].upper() + name[1:]


def both_units(value: float, unit: str, digits: int, sign: str = "") -> str:
    """A value in its SI unit and, in parentheses, in the other family's where that has one.

    >>> both_units(30.0, "°C", 0)
    '30 °C (86 °F)'
    >>> both_units(2.0, "s", 2)
    '2.00 s'
    """
    return _both([value], unit, f"{sign}.{digits}f")


def range_in_both_units(low: float, high: float, unit: str) -> str:
    """From a whole value to another, in both families.

    >>> range_in_both_units(41.0, 48.0, "°C")
    '41 to 48 °C (106 to 118 °F)'
    >>> range_in_both_units(61.0, 96.0, "%")
    '61 to 96 %'
    """
    return _both([low, high], unit, ".0f")


def _both(values: Sequence[float], unit: str, spec: str) -> str:
    def written(found: Iterable[float], in_unit: str) -> str:
        return " to ".join(_number(value, spec) for value in found) + f" {in_unit}"

    first = written(values, unit)
    if unit == "°C":
        return f"{first} ({written(map(fahrenheit, values), '°F')})"
    other = OTHER_UNITS.get(unit)
    return f"{first} ({written([value / other[1] for value in values], other[0])})" if other else first


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


def listed(words: Sequence[str]) -> str:
    """Words in a row, the last with `and`.

    >>> listed(["charge"]), listed(["charge", "wind"]), listed(["charge", "wind", "slope"])
    ('charge', 'charge and wind', 'charge, wind and slope')
    """
    return " and ".join(filter(None, [", ".join(words[:-1]), *words[-1:]]))


def duration(minutes: float) -> str:
    """A time as people say it.

    >>> duration(45), duration(120), duration(284.6)
    ('45 min', '2 h', '4 h 45 min')
    """
    hours, rest = divmod(round(minutes), 60)
    return " ".join([f"{hours} h"] * (hours > 0) + [f"{rest} min"] * (rest > 0 or hours == 0))
