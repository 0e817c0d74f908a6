"""Why a run that was found could not be timed."""

from __future__ import annotations

from coombe_core.timing.results import Untimed

REASONS = {
    "too few fixes": "too few fixes to fit its motion",
    "fit failed": "the fit of its motion failed; look at the fixes for jumps and repeats",
    "no number": "the fit of its motion gave no number",
}


def untimed_reason(run: Untimed) -> str:
    """Say why a run has no times."""
    return REASONS[run.reason]
