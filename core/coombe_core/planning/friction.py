"""Friction that a stop can count on, by surface and temperature.

Sliding friction of rubber on road from Taborek, Mechanics of Vehicles (1957), as tabled in Wong, Theory of Ground
Vehicles (from memory); where a range is given, its lower end. Tires out of their season count less, by stated shares.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from coombe_core.units import STANDARD_GRAVITY_MPS2

SLIDING = {
    "dry asphalt": 0.75,
    "concrete": 0.75,
    "prepared strip": 0.75,
    "damp asphalt": 0.45,
    "wet asphalt": 0.45,
    "ice": 0.07,
}
WET = ("damp asphalt", "wet asphalt")
ICE_BELOW_C = 3.0
SUMMER_TIRES_FROM_C = 7.0
WINTER_TIRES_TO_C = 15.0
COLD_SUMMER_SHARE = 0.85
WARM_WINTER_SHARE = 0.8


@dataclass(frozen=True)
class Friction:
    """A coefficient of friction, and what lessened it: possible ice, or tires out of their season."""

    coefficient: float
    lessened_by: Literal["", "ice", "cold", "warmth"] = ""
    outside_temp_c: float | None = None
    tire_season: str = ""


def friction(surface: str, outside_temp_c: float | None = None, tire_season: str = "") -> Friction:
    """Say what friction a stop can count on.

    Parameters
    ----------
    surface : str
        One of SLIDING.
    outside_temp_c : float, optional
    tire_season : str
        summer, track or winter; empty where it is not known.

    Returns
    -------
    Friction

    Raises
    ------
    KeyError
        For a surface that is not listed.

    References
    ----------
    Taborek (1957), Mechanics of Vehicles, in Wong, Theory of Ground Vehicles (from memory).
    """
    coefficient = SLIDING[surface]
    if outside_temp_c is None:
        return Friction(coefficient)
    if surface in WET and outside_temp_c <= ICE_BELOW_C:
        return Friction(SLIDING["ice"], "ice", outside_temp_c)
    if tire_season in ("summer", "track") and outside_temp_c < SUMMER_TIRES_FROM_C:
        return Friction(coefficient * COLD_SUMMER_SHARE, "cold", outside_temp_c, tire_season)
    if tire_season == "winter" and outside_temp_c > WINTER_TIRES_TO_C:
        return Friction(coefficient * WARM_WINTER_SHARE, "warmth", outside_temp_c, tire_season)
    return Friction(coefficient)


def stopping_distance_m(speed_mps: float, coefficient: float, slope_percent: float = 0.0) -> float:
    """Calculate a braking distance, v^2 / (2 g (mu + slope)).

    Parameters
    ----------
    speed_mps : float
    coefficient : float
        Of friction, mu.
    slope_percent : float
        Positive uphill.

    Returns
    -------
    float
        Meters; inf where the car would not hold.

    Examples
    --------
    >>> round(stopping_distance_m(27.7778, 0.75), 1)
    52.5
    """
    holding = coefficient + slope_percent / 100.0
    return speed_mps**2 / (2.0 * STANDARD_GRAVITY_MPS2 * holding) if holding > 0 else float("inf")
