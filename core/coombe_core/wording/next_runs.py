"""What to run next, in sentences."""

from __future__ import annotations

from coombe_core.planning.next_runs import NextRuns
from coombe_core.planning.sample_size import MOST_RUNS


def next_runs_sentence(asked: NextRuns) -> str:
    """Say which runs would settle a comparison."""
    if asked.why == "too few":
        return f"Record {asked.runs} runs per group, alternating on one day."
    if asked.why == "unlike":
        names = " and ".join(asked.factors)
        again = f"Run both groups again at the same {names}, {asked.runs} each, alternating"
        return f"{again}; or drive a charge sweep and adjust."
    size = f"{asked.target:.2f} {asked.unit}"
    if asked.runs is None:
        return f"No number of runs up to {MOST_RUNS} would show {size}; reduce the scatter first."
    sentence = f"{asked.runs} runs per group, alternating on one day, would probably show a difference of {size}."
    if asked.runs_on_days is not None:
        sentence += (
            f" If the change can't be undone: {asked.days} days per group with {asked.runs_on_days} runs in total."
        )
    return sentence
