"""One machine a recorder: whoever records with it holds it for a few seconds at a time, by the database's clock.

A machine that dies lets go by itself. One that the database can't be reached from records on: what two recorded of the
same passes counts once.
"""

from __future__ import annotations

import secrets
import socket
from pathlib import Path

from django.conf import settings
from django.db.models import DateTimeField, Func, Q

from config.again import whole
from recording.models import Recorder

LASTS_S = 20
RENEWED_EVERY_S = 5.0


class HeldError(Exception):
    """Another machine records with it; its text is a sentence."""


class _Now(Func):
    """The database's time, some seconds on."""

    output_field = DateTimeField()

    def __init__(self, later_s: int = 0) -> None:
        super().__init__(template=f"UTC_TIMESTAMP(6) + INTERVAL {later_s} SECOND")


def machine() -> str:
    """What this home is called among those that record: the machine's name, and letters of its own."""
    path = Path(settings.SPOOL) / "machine"
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"{socket.gethostname()[:40]}-{secrets.token_hex(3)}")
    return path.read_text()


@whole
def take(recorder: int, by: str) -> None:
    """Hold a recorder from now on, or go on holding it. Raises HeldError where another machine does."""
    free = Q(held_until=None) | Q(held_until__lt=_Now()) | Q(held_by=by)
    if Recorder.objects.filter(free, pk=recorder).update(held_by=by, held_until=_Now(LASTS_S)):
        return
    holder = Recorder.objects.filter(pk=recorder).values_list("held_by", flat=True).first()
    if holder is not None:  # it may be deleted, which whoever looks finds out
        raise HeldError(f"{holder} records with it already. It is free {LASTS_S} s after that machine has stopped.")


def let_go(recorder: int, by: str) -> None:
    """Hold it no longer."""
    Recorder.objects.filter(pk=recorder, held_by=by).update(held_until=None)
