"""What is odd about a log, before anything of it is stored."""

from __future__ import annotations

from coombe_core.detection.look import CanLook, Look
from coombe_core.wording.quantities import counted

SLOW_HZ = 4.5  # a receiver of five fixes a second may show a little less


def odd_sentences(look: Look) -> list[str]:
    """Say what somebody should know of a log that was looked at; nothing where nothing is odd.

    >>> from coombe_core.formats import read_log
    >>> reading = read_log(b"elapsed_s,speed_mps\\n0,0\\n1,0\\n2,0\\n")
    >>> odd_sentences(Look(reading, [], []))[1]
    'No run in it: no standing start, no roll-on and no stop.'
    """
    trace, found = look.reading.trace, []
    if not trace.date_known:
        found.append("No date in it.")
    if not look.runs:
        found.append("No run in it: no standing start, no roll-on and no stop.")
    incomplete = sum(not run.complete for run in look.runs)
    if incomplete:
        found.append(f"{counted(incomplete, 'run')} broken off.")
    if look.gaps_s:
        found.append(f"{counted(len(look.gaps_s), 'gap')} in its fixes, the longest of {max(look.gaps_s):.0f} s.")
    if 0 < trace.rate_hz < SLOW_HZ:
        found.append(f"{trace.rate_hz:.1f} fixes a second: its times will be unsure.")
    if trace.speed_from_positions:
        found.append("No speed in it: it is worked out from the positions.")
    return found + _left_out(len(look.reading.rejections))


def odd_can_sentences(look: CanLook) -> list[str]:
    """The same of a CAN log."""
    undated = [] if look.start_utc else ["Its clock shows no date: choose the log that it goes with."]
    return undated + _left_out(look.rejected)


def _left_out(lines: int) -> list[str]:
    return [f"{counted(lines, 'line')} left out."] if lines else []
