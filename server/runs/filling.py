"""Gaps that are filled after the day: runs without charge or battery temperature, and conditions pasted for them."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Q, QuerySet

from accounts.models import User
from coombe_core.flags.entered import Asked
from coombe_core.formats.conditions_table import ORDER, KnownRun, Pasted, read_pasted
from coombe_core.wording.quantities import counted
from runs.conditions import RANGES
from runs.models import Run, RunKind
from runs.questions import about_run
from runs.services import RunChange, change_runs

MOST_ASKED_ABOUT = 100  # rows, more than a page of runs has
ASKED = ("charge_before_percent", "battery_temp_before_c")


def missing(runs: QuerySet[Run]) -> QuerySet[Run]:
    """Pulls whose charge or battery temperature nobody recorded."""
    unknown = Q(**{f"{ASKED[0]}__isnull": True}) | Q(**{f"{ASKED[1]}__isnull": True})
    return runs.filter(unknown).exclude(kind=RunKind.STOP)


def preview(text: str, runs: Sequence[Run], fahrenheit: bool) -> Pasted:
    """What pasted rows would record, and what is doubtful about them."""
    return read_pasted(text, [_known(run) for run in runs], RANGES, fahrenheit)


def questions(pasted: Pasted, runs: Sequence[Run]) -> list[list[Asked]]:
    """What to ask about the values of each row, with what is known of its run."""
    return [
        about_run(runs[row.run], row.values) if row.run is not None and place < MOST_ASKED_ABOUT else []
        for place, row in enumerate(pasted.rows)
    ]


def fill(pasted: Pasted, runs: Sequence[Run], person: User) -> None:
    """Write all rows down, or none. Raises ValueError where a row is wrong."""
    if any(row.wrong for row in pasted.rows):
        raise ValueError("Nothing was recorded: correct the rows that are wrong.")
    found = [(runs[row.run], row.values) for row in pasted.rows if row.run is not None]
    changes = [RunChange(run, values, run.revision) for run, values in found]
    change_runs(changes, person, f"Recorded conditions of {counted(len(changes), 'run')}")


def _known(run: Run) -> KnownRun:
    return KnownRun(run.start_local, {name: getattr(run, name) for name in ORDER})
