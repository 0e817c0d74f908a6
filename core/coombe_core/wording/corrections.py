"""To what a time was corrected, or why it was not."""

from __future__ import annotations

from coombe_core.timing.corrections import Correction
from coombe_core.timing.results import TimedRun

REFERENCES = {"slope": "a level course", "air density": "air of 1.225 kg/m³", "wind": "calm"}
REASONS = {
    "": "",
    "slope unknown": "the slope is not known",
    "heading unknown": "the log has no course over ground, so the wind's direction is unknown",
}


def reference(correction: Correction) -> str:
    """Say what times are corrected to."""
    return ", ".join(REFERENCES[part] for part in correction.parts)


def uncorrected_reason(run: TimedRun) -> str:
    """Say why a run has no corrected times; empty where it has, or where none were asked for."""
    return REASONS[run.uncorrected_because]
