"""What an order of runs leaves inseparable from the change."""

from __future__ import annotations

from coombe_core.planning.order import Confounding


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
