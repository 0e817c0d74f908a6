"""What a change of wheels amounts to."""

from __future__ import annotations

from coombe_core.physics.wheels import DISK_SHARE, HOOP_SHARE, WHEELS, WheelChange
from coombe_core.wording.quantities import mass, signed


def wheels_sentence(change: WheelChange) -> str:
    """Say how a change of wheels was counted."""
    return (
        f"{WHEELS} x {mass(change.each_kg)} is {mass(change.scales_kg)} on the scales. Rotation adds "
        f"{change.inertia_share:.2f} times that (between {DISK_SHARE:g}, a disk, and {HOOP_SHARE:g}, a hoop; assumed): "
        f"{mass(change.in_motion_kg)} in motion, {signed(100 * change.share_of_car, 1)} % of the car. Where power "
        "limits the car, times grow by that share; where grip limits it, hardly at all."
    )
