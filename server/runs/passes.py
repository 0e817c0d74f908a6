"""One pass that two receivers saw: recognised by its car and its time, and counted once."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

SAME_PASS = timedelta(seconds=1.5)  # receivers agree on UTC; what differs is how each run's start was found


@dataclass(frozen=True)
class Seen:
    """A run as one receiver saw it."""

    run: int
    car: int
    kind: str
    log: int
    start_utc: datetime
    rate_hz: float


def seen_twice(rows: Iterable[Seen]) -> dict[int, int]:
    """Runs that are the same pass as another one, by number, with the run that counts: that of the quicker receiver."""
    found: dict[int, int] = {}
    groups: dict[tuple[int, str], list[Seen]] = {}
    for row in rows:
        groups.setdefault((row.car, row.kind), []).append(row)
    for group in groups.values():
        for together in _passes(sorted(group, key=lambda row: row.start_utc)):
            best, *others = sorted(together, key=lambda row: (-row.rate_hz, row.run))
            found |= {row.run: best.run for row in others if row.log != best.log}
    return found


def _passes(rows: Sequence[Seen]) -> Iterable[list[Seen]]:
    together: list[Seen] = []
    for row in rows:
        if together and row.start_utc - together[0].start_utc > SAME_PASS:
            yield together
            together = []
        together.append(row)
    if together:
        yield together
