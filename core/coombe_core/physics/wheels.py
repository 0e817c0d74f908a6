"""What a change of wheels amounts to in mass: a wheel that rolls counts more than its mass.

Its kinetic energy is 1/2 m v^2 + 1/2 I (v/r)^2, so it counts as m (1 + (gyration / r)^2): 1.5 m for a uniform disk,
2 m for a hoop (any text on rigid-body dynamics). A wheel with its tire is between.
"""

from __future__ import annotations

from dataclasses import dataclass

WHEELS = 4
DISK_SHARE = 0.5
HOOP_SHARE = 1.0
ASSUMED_SHARE = 0.68  # (gyration / rolling radius)^2 of a wheel with tire; from memory, between disk and hoop


@dataclass(frozen=True)
class WheelChange:
    """Mass added at each wheel, on the scales and in motion (kg), and its share of the car's.

    `inertia_share` is what turning adds of it.
    """

    each_kg: float
    scales_kg: float
    in_motion_kg: float
    share_of_car: float
    inertia_share: float


def in_motion_kg(mass_kg: float, inertia_share: float = ASSUMED_SHARE) -> float:
    """Calculate the mass that a rolling wheel counts as: m (1 + (gyration / rolling radius)^2).

    Parameters
    ----------
    mass_kg : float
        On the scales.
    inertia_share : float
        (gyration / rolling radius)^2.

    Returns
    -------
    float
        kg.

    Examples
    --------
    >>> in_motion_kg(20.0, DISK_SHARE)
    30.0
    """
    return mass_kg * (1.0 + inertia_share)


def wheel_change(before_kg: float, after_kg: float, car_kg: float, inertia_share: float = ASSUMED_SHARE) -> WheelChange:
    """Work out what four wheels of another mass amount to.

    Parameters
    ----------
    before_kg, after_kg : float
        Mass of one wheel with its tire.
    car_kg : float
        Test mass of the car.
    inertia_share : float
        (gyration / rolling radius)^2.

    Returns
    -------
    WheelChange
    """
    scales = WHEELS * (after_kg - before_kg)
    motion = WHEELS * (in_motion_kg(after_kg, inertia_share) - in_motion_kg(before_kg, inertia_share))
    share = motion / car_kg
    return WheelChange(after_kg - before_kg, scales, motion, share, inertia_share)
