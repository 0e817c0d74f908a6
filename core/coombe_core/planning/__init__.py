"""The evening before: how many runs, in which order, on which strip, and when to plug in, heat and leave.

sample_size  runs per group for a difference, and the reverse
next_runs    what to run next to settle a question
order        the order of runs, and what it confounds
strip        whether a strip is long enough
friction     what a stop can count on
budget       what runs cost in charge
day          a test day and its timetable
spreading    conditions between the first and the last run of a log
timetable    working a day back from its first run
"""

__all__ = ["budget", "day", "friction", "next_runs", "order", "sample_size", "spreading", "strip", "timetable"]
