"""Imports in the background: a request stores the bytes and answers at once; a worker reads and times them."""

from __future__ import annotations

import hashlib
import time
import uuid
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import suppress
from datetime import date
from typing import Any, TypeVar

from django.core.files.storage import default_storage
from django.db.models import F, Model
from django.dispatch import Signal
from django.utils import timezone
from django_tasks import task
from rest_framework.exceptions import ValidationError

from accounts.models import User
from cars.models import Setup
from config.again import TRIES, patiently
from config.connections import AWAY
from config.errors import Conflict, refusal
from config.metrics import IMPORTING
from coombe_core.formats import ReadError
from coombe_core.formats.reading import CanError, UnknownColumnsError
from courses.models import Course
from runs import passes, services, store
from runs.can_logs import CanUpload
from runs.dating import Dating, UndatedError
from runs.models import Import, ImportState, Log
from runs.names import plain_name

FOLDER = "imports"  # of the storage: bytes on their way into the store
UNFINISHED = (ImportState.WAITING, ImportState.TIMING)
Thing = TypeVar("Thing")
Made = TypeVar("Made")


class CanceledError(Exception):
    """Somebody canceled the import while it was being timed."""


def begin(
    name: str, data: bytes, setup: Setup, person: User, asked: Mapping[str, Any], can_log: CanUpload | None
) -> Import:
    """Take a file and have it timed; one that is known is answered at once, before anything is timed.

    `asked` are the conditions of its runs, with `layout` and `day` where they were given. Raises NoRoomError where
    the disk is full.
    """
    made = Import(
        spool=uuid.uuid4(),
        name=plain_name(name),
        can_name=plain_name(can_log.name) if can_log else "",
        setup=setup,
        asked=_as_json(asked) | ({"dbc": can_log.dbc} if can_log and can_log.dbc else {}),
        sha256=hashlib.sha256(data).hexdigest(),
        created_by=person,
    )
    known = patiently(Log.objects.filter(sha256=made.sha256).first, TRIES)()
    if known and can_log is None:
        store.keep(data, made.sha256)  # that mends bytes which were lost or damaged
        made.log, made.already, made.state, made.ended_at = known, True, ImportState.DONE, timezone.now()
        made.save()
        return made
    _write(made, data, can_log)
    patiently(_take, TRIES)(made)
    return made


def _take(made: Import) -> None:
    """Have it wait, once, also where an attempt before this one was stored without an answer."""
    there = Import.objects.filter(spool=made.spool).first()
    if there is None:
        made.save()
    else:
        made.pk = there.pk
    time_import.enqueue(made.pk)
    made.refresh_from_db()


def cancel(made: Import) -> None:
    """End an import that is not done. Raises Conflict where it is."""
    if not _end(made, state=ImportState.CANCELED):
        raise Conflict("This import has ended already.")
    _discard(made)


# Sent when a worker begins, so that whoever left something for it can say what is left.
worker_began = Signal()


def resume() -> int:
    """Have imports that a worker left unfinished taken up again; how many."""
    left = list(Import.objects.filter(state__in=UNFINISHED))
    for made in left:
        time_import.enqueue(made.pk)
    return len(left)


@task()
def time_import(number: int) -> None:
    """Read, time and store one import; what goes wrong is kept with it.

    What was acknowledged is not refused because the database went away for a while: it is timed anew.
    """
    try:
        patiently(_time)(number)
    except AWAY as error:
        _refuse(Import.objects.get(pk=number), error)


def _time(number: int) -> None:
    unfinished = Import.objects.filter(pk=number, state__in=UNFINISHED)
    made = unfinished.select_related("setup__car", "created_by").first()
    if made is None or not unfinished.update(state=ImportState.TIMING, runs_found=0, runs_timed=0):
        return  # another worker has done it
    began_s = time.perf_counter()
    try:
        done = _stored(made)
    except AWAY:
        raise
    except CanceledError:
        return
    except Exception as error:
        _refuse(made, error)
    else:
        doubt = "" if done.already else passes.doubt_about(done.log)
        _end(made, state=ImportState.DONE, log=done.log, already=done.already, doubt=doubt)
        IMPORTING.observe(time.perf_counter() - began_s)
        _discard(made)


def _stored(made: Import) -> services.Imported:
    data, can_log = _read(made)
    asked = dict(made.asked)
    layout, day, _ = (asked.pop(name, None) for name in ("layout", "day", "dbc"))
    zone, later = asked.pop("zone", "UTC"), asked.pop("later", False)
    if "course" in asked:
        asked["course"] = Course.objects.filter(pk=asked["course"]).first()
    return services.import_log(
        made.name,
        data,
        made.setup,
        made.created_by,
        asked,
        layout,
        can_log,
        Dating(date.fromisoformat(day), zone) if day else None,
        later,
        each=_counting(made.pk),
    )


def _refuse(made: Import, error: Exception) -> None:
    _end(made, state=ImportState.REFUSED, refusal=refusal(by_field(error, made.name, made.can_name)))
    _discard(made)


def _counting(number: int) -> Callable[[Callable[[Thing], Made], Iterable[Thing]], Iterator[Made]]:
    """A `map` that keeps how many runs were found and timed, and stops where the import was canceled."""

    def each(act: Callable[[Thing], Made], things: Iterable[Thing]) -> Iterator[Made]:
        listed = list(things)
        Import.objects.filter(pk=number).update(runs_found=len(listed))
        for thing in listed:
            yield act(thing)
            going_on = Import.objects.filter(pk=number, state=ImportState.TIMING)
            if not going_on.update(runs_timed=F("runs_timed") + 1):
                raise CanceledError

    return each


def by_field(error: Exception, name: str, can_name: str) -> Exception:
    """The refusal of a file at the field of the form that it concerns; `can_name` is of its CAN log."""
    match error:
        case CanError():
            return ValidationError({"can_log": [f"{can_name or 'CAN log'}: {error}"]})
        case UndatedError():
            return ValidationError({"day": [f"{name}: {error}."]})
        case UnknownColumnsError():
            return ValidationError({"file": [f"{name}: {error}"], "headings": error.columns})
        case ReadError():
            return ValidationError({"file": [f"{name}: {error}"]})
        case _:
            return error


def _end(made: Import, **values: Any) -> bool:
    """Note how an import ended; False where it had ended already."""
    rows = Import.objects.filter(pk=made.pk, state__in=UNFINISHED)
    return bool(rows.update(ended_at=timezone.now(), **values))


def _as_json(asked: Mapping[str, Any]) -> dict[str, Any]:
    """What was asked, with rows by number and days as text."""
    plain = {name: value.pk if isinstance(value, Model) else value for name, value in asked.items()}
    return {name: value.isoformat() if isinstance(value, date) else value for name, value in plain.items()}


def _address(made: Import, kind: str) -> str:
    return f"{FOLDER}/{made.spool}.{kind}"


def _write(made: Import, data: bytes, can_log: CanUpload | None) -> None:
    parts = {"log": data} | ({"can": can_log.data} if can_log else {})
    for kind, content in parts.items():
        store.write(_address(made, kind), content)


def _read(made: Import) -> tuple[bytes, CanUpload | None]:
    data = store.read_file(_address(made, "log"))
    if not made.can_name:
        return data, None
    return data, CanUpload(made.can_name, store.read_file(_address(made, "can")), made.asked.get("dbc"))


def _discard(made: Import) -> None:
    for kind in ("log", "can"):
        with suppress(OSError):
            default_storage.delete(_address(made, kind))
