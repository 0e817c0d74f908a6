"""Gaps that are filled after the day: runs without charge or pack temperature, and conditions pasted for them."""

from __future__ import annotations

from collections.abc import Sequence
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Q, QuerySet

from accounts.models import User
from coombe_core.formats.conditions_table import ORDER, KnownRun, Pasted, read_pasted
from runs.conditions import RANGES
from runs.models import Run, RunKind
from runs.services import change_run

ASKED = ("charge_before_percent", "pack_temp_before_c")


def missing(runs: QuerySet[Run]) -> QuerySet[Run]:
    """Pulls whose charge or pack temperature nobody wrote down."""
    unknown = Q(**{f"{ASKED[0]}__isnull": True}) | Q(**{f"{ASKED[1]}__isnull": True})
    return runs.filter(unknown).exclude(kind=RunKind.STOP)


def preview(text: str, runs: Sequence[Run], fahrenheit: bool) -> Pasted:
    """What pasted rows would write down, and what is doubtful about them."""
    return read_pasted(text, [_known(run) for run in runs], RANGES, fahrenheit)


def fill(pasted: Pasted, runs: Sequence[Run], person: User) -> None:
    """Write all rows down, or none. Raises ValueError where a row is wrong."""
    if any(row.wrong for row in pasted.rows):
        raise ValueError("Nothing was written down: correct the rows that are wrong.")
    with transaction.atomic():
        for row in pasted.rows:
            assert row.run is not None
            run = runs[row.run]
            change_run(run, row.values, run.revision, person)


def _known(run: Run) -> KnownRun:
    zone = ZoneInfo(run.course.time_zone) if run.course else ZoneInfo("UTC")
    return KnownRun(run.start_utc.astimezone(zone), {name: getattr(run, name) for name in ORDER})
