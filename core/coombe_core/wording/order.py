"""What an order of runs leaves inseparable from the change."""

from __future__ import annotations

from coombe_core.planning.budget import DrivingDown
from coombe_core.planning.order import Confounding
from coombe_core.wording.quantities import both_units, duration


def confounding_sentence(found: Confounding) -> str:
    """Say what goes with the groups, what that could be taken for, and which order avoids it."""
    avoided = f" The order {found.avoided_by} avoids this." if found.avoided_by else ""
    return _confounding(found) + avoided


def _confounding(found: Confounding) -> str:
    if found.what == "day":
        return (
            "Before and after are on different days, since the change can't be undone: day and change are partly "
            "inseparable. Two days each in similar conditions, and a measure that the change can't affect, separate "
            "them."
        )
    if found.what == "time of day":
        return (
            f"The runs of {found.late} come later than those of {found.early}, by {100 * found.shift:.0f} % of the day "
            "on average: warming air, a cooling battery and falling charge would look like a difference."
        )
    parts = ", ".join(f"{100 * share:.0f} % of {name}" for name, share in found.shares.items())
    return f"The {found.what} goes with the group: {found.value} for {parts}."


def driving_down_sentence(between: DrivingDown, launches: int) -> str:
    """Say what comes between the launches of a sweep, and how long all of it takes."""
    in_all = duration(between.minutes * (launches - 1))
    return (
        f"{launches} launches. From one to the next drive {between.points:.0f} points of charge down: "
        f"{between.energy_kwh:.0f} kWh, about {both_units(between.distance_m / 1000.0, 'km', 0)}, "
        f"{duration(between.minutes)} on open roads (usual use assumed); {in_all} in all."
    )
