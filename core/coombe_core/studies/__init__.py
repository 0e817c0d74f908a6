"""Studies of more than two groups: how a measure holds up. Each is a function from values to a result with intervals.

sweep          against charge, or battery temperature: a smooth curve with its band, flatness, and a step
braking        stops in order: fade per stop
repeatability  passes in order: change per pass, and whether the first was the quickest
roll_ons       times from the instant of full power
receivers      two receivers on the same passes: bias and limits of agreement
energy         of a run, from voltage and current, with what charge says beside it
dashboard      true speed against indicated
laps           times between crossings of a start line
levels         modes, tires or warmth side by side, each against a chosen one
history        a measure over months, with a jump that nobody logged
trend          a line through series
step           a change point
problem        what a study can't be made of
"""

__all__ = [
    "braking",
    "dashboard",
    "energy",
    "history",
    "laps",
    "levels",
    "problem",
    "receivers",
    "repeatability",
    "roll_ons",
    "step",
    "sweep",
    "trend",
]
