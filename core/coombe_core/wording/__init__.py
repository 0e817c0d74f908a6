"""Every English sentence that the core says about a result, from codes and values; errors carry their own.

quantities        numbers with their units, in both families
flags, untimed, corrections      a run
comparison, adjustment, curves, next_runs, value, projection      a comparison
heads_up          two cars side by side
studies           sweeps, series and agreement
sources           where a number came from: learned, worked out, or assumed
order, sample_size, timetable, strip, wheels  planning
conditions_table  pasted conditions
"""

__all__ = [
    "adjustment",
    "comparison",
    "conditions_table",
    "corrections",
    "curves",
    "flags",
    "heads_up",
    "next_runs",
    "order",
    "projection",
    "quantities",
    "sample_size",
    "sources",
    "strip",
    "studies",
    "timetable",
    "untimed",
    "value",
    "wheels",
]
