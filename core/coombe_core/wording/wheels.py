"""What a change of wheels amounts to."""

from __future__ import annotations

from coombe_core.physics.wheels import DISK_SHARE, HOOP_SHARE, WHEELS, WheelChange
from coombe_core.wording.quantities import mass


def wheels_sentence(change: WheelChange) -> str:
    """Say how a change of wheels was counted."""
    return (
        f"{WHEELS} x {change.each_kg:+.1f} kg is {mass(change.scales_kg)} on the scales. Turning adds "
        f"{change.inertia_share:.2f} of it (between {DISK_SHARE:g}, a disk, and {HOOP_SHARE:g}, a hoop; assumed): "
        f"{mass(change.in_motion_kg)} in motion, {100 * change.share_of_car:+.1f} % of the car. Where power limits the "
        "car, times grow by that share; where grip limits it, hardly at all."
    )
