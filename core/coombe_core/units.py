"""Unit families, exact conversion factors and formatting. Inside Coombe everything is SI.

Factors are the exact ones of NIST SP 811 (2008), Appendix B; 1 ft = 0.3048 m exactly.
"""

from __future__ import annotations

FOOT_M = 0.3048
MILE_M = 5280 * FOOT_M
INCH_M = FOOT_M / 12
POUND_KG = 0.453_592_37
HOUR_S = 3600.0
MPH_MPS = MILE_M / HOUR_S
KMH_MPS = 1000.0 / HOUR_S
KNOT_MPS = 1852.0 / HOUR_S
STANDARD_GRAVITY_MPS2 = 9.806_65
MECHANICAL_HORSEPOWER_W = 550 * FOOT_M * POUND_KG * STANDARD_GRAVITY_MPS2
METRIC_HORSEPOWER_W = 75 * STANDARD_GRAVITY_MPS2
PSI_KPA = POUND_KG * STANDARD_GRAVITY_MPS2 / INCH_M**2 / 1000.0

SPEED_UNITS_MPS = {"mph": MPH_MPS, "km/h": KMH_MPS, "m/s": 1.0, "kn": KNOT_MPS}


def speed_mps(value: float, unit: str) -> float:
    """A speed in `unit` (mph, km/h, m/s or kn) as m/s. Raises KeyError for any other unit.

    >>> round(speed_mps(60, "mph"), 4)
    26.8224
    """
    return value * SPEED_UNITS_MPS[unit]


def fahrenheit(celsius: float) -> float:
    """Degrees Fahrenheit of degrees Celsius (NIST SP 811, B.8).

    >>> fahrenheit(100)
    212.0
    """
    return celsius * 1.8 + 32.0


def celsius(fahrenheit: float) -> float:
    """Degrees Celsius of degrees Fahrenheit (NIST SP 811, B.8).

    >>> celsius(212)
    100.0
    """
    return (fahrenheit - 32.0) / 1.8
