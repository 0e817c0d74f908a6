"""Whether this installation lives and can work, for whoever watches it: a supervisor, a proxy, `./coombe doctor`."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from datetime import UTC, timedelta

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from config.connections import AWAY
from runs import store

MOST_APART = timedelta(minutes=1)
LONGEST_WAIT = timedelta(minutes=2)  # of a task: a worker looks every second


class UnfitError(Exception):
    """Something that this installation can't work without; its text is a sentence."""


def live(request: HttpRequest) -> JsonResponse:
    """This process answers."""
    return JsonResponse({"live": True})


def ready(request: HttpRequest) -> JsonResponse:
    """What the process needs is there, each with `ok` or what is wrong; 503 where something is."""
    states = {name: state_of(check) for name, check in CHECKS.items()}
    fit = all(each == "ok" for each in states.values())
    return JsonResponse({"ready": fit, **states}, status=200 if fit else 503)


def state_of(check: Callable[[], None]) -> str:
    """`ok`, or what is wrong in a sentence."""
    try:
        check()
    except UnfitError as error:
        return str(error)
    except AWAY:
        return "The database does not answer."
    return "ok"


def _database() -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")


def _clock() -> None:
    """This machine and the database agree on the time: days, links and codes rest on it."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT UTC_TIMESTAMP()")
        theirs = cursor.fetchone()[0].replace(tzinfo=UTC)
    apart = timezone.now() - theirs
    if abs(apart) > MOST_APART:
        ahead = "ahead of" if apart > timedelta() else "behind"
        minutes = abs(apart).total_seconds() / 60
        raise UnfitError(f"This machine's clock is {minutes:.0f} minutes {ahead} the database's: set both by NTP.")


def _store() -> None:
    """The store takes a file."""
    try:
        store.storage.try_out()
    except OSError as error:
        raise UnfitError(f"The store can't be written: {error.strerror}.") from None


def _tasks() -> None:
    waiting = DBTaskResult.objects.ready().filter(enqueued_at__lt=timezone.now() - LONGEST_WAIT)
    if waiting.exists() and not DBTaskResult.objects.running().exists():
        raise UnfitError(f"Tasks wait for more than {LONGEST_WAIT.seconds // 60} minutes: no task worker runs.")


def _disk() -> None:
    free = shutil.disk_usage(settings.VAR).free
    if free < settings.RESERVE_BYTES:
        raise UnfitError(f"The disk has {free / 1e6:.0f} MB left: imports are refused until there is room.")


CHECKS = {"database": _database, "clock": _clock, "store": _store, "tasks": _tasks, "disk": _disk}
