"""Changing what is recorded of a setup: freely while it has no runs, afterwards as a correction with its reason.

A setup that runs were made on says what was driven. Where it was typed wrong it is corrected; where something else
was fitted since, that is the next setup.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from cars.models import Setup
from config.errors import UnfitError

# What describes the change rather than the car that was driven; a correction of it needs no reason.
ABOUT_THE_CHANGE = {
    *("name", "change_note", "confirmed_by", "price", "currency", "can_undo"),
    *("claimed_measure", "claimed_gain_s", "revision", "tire_distance_km", "tire_tread_mm"),
}


def refuse_unexplained(setup: Setup, changes: Mapping[str, Any], correction: str) -> None:
    """Raise UnfitError where a change touches what was driven and nobody says that it had been typed wrong."""
    touched = {name for name, value in changes.items() if getattr(setup, name) != value} - ABOUT_THE_CHANGE
    if touched and not correction.strip() and setup.runs.exists():
        raise UnfitError(
            f"Runs were made on this setup. If {_listed(touched)} had been typed wrong, say so in `correction`; "
            "if something else was fitted, add the next setup.",
            "correction",
        )


def _listed(names: set[str]) -> str:
    return ", ".join(name.replace("_", " ") for name in sorted(names))
