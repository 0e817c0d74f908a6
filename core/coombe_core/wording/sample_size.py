"""How many runs a question needs, and what a number of runs could show."""

from __future__ import annotations

from coombe_core.planning.sample_size import MOST_RUNS
from coombe_core.wording.quantities import both_units, counted


def needed_sentence(
    difference: float, unit: str, wanted: float, runs: int | None, days: int | None, days_per_group: int
) -> str:
    """Say what the number of runs, or of days, that a difference needs comes to; it stands below that number.

    Parameters
    ----------
    difference : float
        The difference that matters, in `unit`.
    unit : str
        `s` or `m`.
    wanted : float
        The power, 0 to 1.
    runs, days : int or None
        Needed per group; None where no number does.
    days_per_group : int
        Planned; 1 where the groups share their days.

    Examples
    --------
    >>> needed_sentence(0.1, "s", 0.8, 5, None, 1)
    'This is enough to detect a difference of 0.10 s in 80 of 100 tests.'
    """
    amount = _amount(difference, unit)
    if runs is not None:
        on_days = f", on {counted(days_per_group, 'day')} each" if days_per_group > 1 else ""
        return f"This is enough to detect a difference of {amount} in {_of_hundred(wanted)} of 100 tests{on_days}."
    if days is not None:
        return f"It takes as many to detect {amount}: with fewer, the car's scatter from day to day hides it."
    return f"Not even {MOST_RUNS} runs per group detect {amount}: this car scatters too much."


def planned_sentence(difference: float, unit: str, runs: int, detectable: float, power: float) -> str:
    """Say what the planned runs per group detect, and how often they detect the difference that matters.

    >>> planned_sentence(0.1, "s", 5, 0.124, 0.62)
    'The 5 planned runs detect 0.12 s or more, and 0.10 s in 62 of 100 tests.'
    """
    return (
        f"The {runs} planned runs detect {_amount(detectable, unit)} or more, and {_amount(difference, unit)} in "
        f"{_of_hundred(power)} of 100 tests."
    )


def still_sentence(difference: float, unit: str, detectable: float) -> str:
    """Say what the runs driven and those still open detect together.

    >>> still_sentence(0.3, "m", 0.5)
    'All runs together still detect 0.5 m (1.6 ft); the difference that matters is 0.3 m (1.0 ft).'
    """
    return (
        f"All runs together still detect {_amount(detectable, unit)}; the difference that matters is "
        f"{_amount(difference, unit)}."
    )


def _amount(value: float, unit: str) -> str:
    """As near as the measure is read, and nearer where that would leave nothing."""
    digits = 2 if unit == "s" else 1
    return both_units(value, unit, digits if value >= 10**-digits else 3)


def _of_hundred(share: float) -> str:
    """A chance as a count of a hundred: never all, since nothing is certain."""
    return "more than 99" if share > 0.99 else f"{100 * share:.0f}"
