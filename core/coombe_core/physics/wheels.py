"""What a change of wheels amounts to in mass: a wheel that rolls counts more than its mass.

Its kinetic energy is 1/2 m v^2 + 1/2 I (v/r)^2, so it counts as m (1 + (gyration / r)^2): 1.5 m for a uniform disk,
2 m for a hoop (any text on rigid-body dynamics). A wheel with its tire lies between.
"""

from __future__ import annotations

from dataclasses import dataclass

from coombe_core.units import POUND_KG

WHEELS = 4
DISK_SHARE = 0.5
HOOP_SHARE = 1.0
ASSUMED_SHARE = 0.68  # (gyration / rolling radius)^2 of a wheel with tire; from memory, between disk and hoop


@dataclass(frozen=True)
class WheelChange:
    """Mass added on the scales and in motion (kg), its share of the car's, and how that was worked out."""

    scales_kg: float
    in_motion_kg: float
    share_of_car: float
    reasoning: str


def in_motion_kg(mass_kg: float, inertia_share: float = ASSUMED_SHARE) -> float:
    """Mass that a rolling wheel counts as, from its own and the square of gyration over rolling radius.

    >>> in_motion_kg(20.0, DISK_SHARE)
    30.0
    """
    return mass_kg * (1.0 + inertia_share)


def wheel_change(before_kg: float, after_kg: float, car_kg: float, inertia_share: float = ASSUMED_SHARE) -> WheelChange:
    """What four wheels of another mass a corner amount to, for a car of a test mass (kg)."""
    scales = WHEELS * (after_kg - before_kg)
    motion = WHEELS * (in_motion_kg(after_kg, inertia_share) - in_motion_kg(before_kg, inertia_share))
    share = motion / car_kg
    reasoning = (
        f"4 x {after_kg - before_kg:+.1f} kg is {_mass(scales)} on the scales. Turning adds {inertia_share:.2f} of it "
        f"(between {DISK_SHARE:g}, a disk, and {HOOP_SHARE:g}, a hoop; assumed): {_mass(motion)} in motion, "
        f"{100 * share:+.1f} % of the car. Where power limits the car, times grow by that share; "
        "where grip limits it, hardly at all."
    )
    return WheelChange(scales, motion, share, reasoning)


def _mass(kg: float) -> str:
    return f"{kg:+.1f} kg ({kg / POUND_KG:+.1f} lb)"
