"""What a change of stored data comes to."""

from __future__ import annotations

from collections.abc import Sequence

from coombe_core.studies.receivers import Agreement
from coombe_core.wording.quantities import counted, listed, signed

UNITS = ("c", "percent", "kpa", "kg", "km", "mm", "mps", "deg", "hpa", "s", "m", "m2", "kw", "kwh", "nm", "utc", "in")


def many_runs_sentence(changed: int, unchanged: int, retimed: int, comparisons: Sequence[str]) -> str:
    """Say what one change of many runs does, to them and to the saved comparisons that they are in.

    >>> many_runs_sentence(6, 2, 6, ["Update 7.2"])
    '6 runs change; 2 are so already. 6 are timed again in the background. Saved comparison with them: Update 7.2.'
    >>> many_runs_sentence(1, 0, 0, [])
    '1 run changes.'
    >>> many_runs_sentence(0, 1, 0, [])
    'Nothing changes: it is so already.'
    """
    if not changed:
        return f"Nothing changes: {'it is' if unchanged == 1 else 'they are'} so already."
    sentences = [f"{counted(changed, 'run')} change{'s' if changed == 1 else ''}"]
    if unchanged:
        sentences[0] += f"; {unchanged} {'is' if unchanged == 1 else 'are'} so already"
    if retimed:
        sentences.append(f"{retimed} {'is' if retimed == 1 else 'are'} timed again in the background")
    if comparisons:
        sentences.append(_comparisons(comparisons))
    return ". ".join(sentences) + "."


def log_deletion_sentence(runs: int, attachments: int, comparisons: Sequence[str], scheduled: int, days: int) -> str:
    """Say what goes when a log is deleted, and for how many days that can be undone.

    >>> log_deletion_sentence(6, 1, ["Update 7.2"], 2, 30)
    'With it go 6 runs, 1 attachment. Saved comparison with them: Update 7.2. 2 scheduled runs are to be driven again. \
You can undo this for 30 days.'
    >>> log_deletion_sentence(0, 0, [], 0, 30)
    'It has no runs. You can undo this for 30 days.'
    """
    if not runs:
        return f"It has no runs. You can undo this for {counted(days, 'day')}."
    with_them = [counted(runs, "run"), *([counted(attachments, "attachment")] if attachments else [])]
    sentences = [f"With it go {', '.join(with_them)}"]
    if comparisons:
        sentences.append(_comparisons(comparisons))
    if scheduled:
        sentences.append(
            f"{counted(scheduled, 'scheduled run')} {'is' if scheduled == 1 else 'are'} to be driven again"
        )
    return ". ".join([*sentences, f"You can undo this for {counted(days, 'day')}."])


def same_passes_sentence(
    runs: int, logs: Sequence[str], counting: Sequence[str], found: tuple[str, Agreement] | None = None
) -> str:
    """Ask about runs that other logs have too, say which counts, and how both agree; empty where there are none.

    >>> print(same_passes_sentence(2, ["evening.nmea"], ["evening.nmea"]))
    2 of its runs are passes that evening.nmea has too. Two receivers? Each counts once, from evening.nmea.
    If not, delete one log.
    """
    if not runs:
        return ""
    had = f"{listed(logs)} {'has' if len(logs) == 1 else 'have'} too"
    verb = "is a pass" if runs == 1 else "are passes"
    once = f"Two receivers? Each counts once, from {listed(counting)}"
    return f"{runs} of its runs {verb} that {had}. {once}{_agreeing(found)}. If not, delete one log."


def _agreeing(found: tuple[str, Agreement] | None) -> str:
    """What the new log says beside the other of the same passes."""
    if found is None:
        return ""
    name, made = found
    return f"; {name} is {signed(made.bias.value, 3)} s ± {made.bias.u95:.3f} s by the new one ({made.passes} passes)"


def _comparisons(titles: Sequence[str]) -> str:
    return f"Saved comparison{'s' if len(titles) > 1 else ''} with them: {', '.join(titles)}"


def corrected_sentence(runs: int, corrections: Sequence[tuple[str, str, str, Sequence[str]]]) -> str:
    """Say that runs of a saved comparison were corrected since: what was done, by whom, on which day, in which fields.

    >>> corrected_sentence(4, [("Changed 4 runs", "rowan", "2026-05-10", ["battery_temp_before_c", "setup"])])
    '4 of its runs were corrected since: Changed 4 runs, battery temp before and setup (rowan, 2026-05-10).'
    """
    parts = "; ".join(
        f"{title}, {listed([plain_field(name) for name in names])} ({person}, {day})"
        for title, person, day, names in corrections
    )
    return f"{runs} of its runs {'was' if runs == 1 else 'were'} corrected since: {parts}."


def plain_field(name: str) -> str:
    """The name of a field without its unit.

    >>> plain_field("battery_temp_before_c"), plain_field("drive_mode"), plain_field("tire_pressure_kpa")
    ('battery temp before', 'drive mode', 'tire pressure')
    """
    words = name.split("_")
    return " ".join(words[:-1] if len(words) > 1 and words[-1] in UNITS else words)
