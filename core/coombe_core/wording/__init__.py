"""Every English sentence that the core says about a result, from codes and values; errors carry their own.

quantities        numbers with their units, in both families
flags, untimed, corrections      a run
comparison, adjustment, next_runs, value, projection      a comparison
sources           where a number came from: learned, worked out, or assumed
order, timetable, strip, wheels  planning
conditions_table  pasted conditions
"""

__all__ = [
    "adjustment",
    "comparison",
    "conditions_table",
    "corrections",
    "flags",
    "next_runs",
    "order",
    "projection",
    "quantities",
    "sources",
    "strip",
    "timetable",
    "untimed",
    "value",
    "wheels",
]
