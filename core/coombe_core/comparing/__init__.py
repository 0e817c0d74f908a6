"""Two groups of runs and one measure: how far apart they are, and whether that is shown.

state        what was recorded about a run (State)
factors      what may differ beside the change, and within what band it counts as alike
groups       from timed runs to the values of a group
comparison   what is compared, asked and found
verdict      the comparison itself: compare()
differences  conditions of both groups side by side, and what they could account for
sensitivity  how a measure changes with conditions
adjusting    values brought to common conditions
matching     only runs of nearly the same charge
breakdown    the difference by bands of speed or distance
character    launch, power or top end
curves       mean curves and the gap between them
projections  values that nobody measured
value        against a claim and a price
heads_up     two cars at once
statistics   the numerics, on arrays
"""

__all__ = [
    "adjusting",
    "breakdown",
    "character",
    "comparison",
    "curves",
    "differences",
    "factors",
    "groups",
    "heads_up",
    "matching",
    "projections",
    "sensitivity",
    "state",
    "statistics",
    "value",
    "verdict",
]
