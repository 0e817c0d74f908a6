"""What two groups' mean curves amount to on the road."""

from __future__ import annotations

from coombe_core.wording.quantities import both_units, capitalized, speed


def lead_sentence(group: str, speed_mps: float, ahead_m: float, car_length_m: float) -> str:
    """Say how far a group is ahead when it passes a speed, both having left together.

    >>> lead_sentence("after", 26.8224, 3.21, 4.5)
    'After is 3.2 m (10.5 ft) ahead at 60 mph (97 km/h) if both start together: 0.7 car lengths.'
    """
    apart_m = abs(ahead_m)
    lengths = f": {apart_m / car_length_m:.1f} car lengths" if apart_m >= car_length_m / 2 else ""
    where = f"{both_units(apart_m, 'm', 1)} {'ahead' if ahead_m >= 0 else 'behind'}"
    return f"{capitalized(group)} is {where} at {speed(speed_mps)} if both start together{lengths}."
