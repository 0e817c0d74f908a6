"""Bringing a recording that has ended into store and database, whole; its spool goes only after that.

What can't be stored stays in the spool with the reason, is listed, and can be tried again.
"""

from __future__ import annotations

import hashlib
import logging
import shutil
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.db.models import QuerySet
from django.dispatch import Signal
from django.utils import timezone

from config.connections import AWAY
from coombe_core.analysis import analyse_log
from coombe_core.detection.can_data import AlignedCan, NoMatchError, align
from coombe_core.formats import ReadError, Reading, read_log
from coombe_core.formats.reading import CanError
from coombe_core.trace import Trace
from recording import keeping, lease
from recording.findings import FoundGap, GapFinder
from recording.models import Recording
from recording.spool import CAN_FILE, LOCK, hold
from runs import can_logs, store
from runs.can_logs import CanUpload
from runs.models import CanLog, Log, Rejection
from runs.services import note_untimed
from runs.storing import request_for

DISCARDED = "discarded"
logger = logging.getLogger(__name__)


class CantStoreError(Exception):
    """A recording that can't be stored as it is; its text is a sentence."""


# Sent when a recording could not be stored, with its `name` and the `trouble`.
in_trouble = Signal()


def unstored() -> QuerySet[Recording]:
    """Recordings that have ended and are not stored yet, whether they were tried or not."""
    return Recording.objects.filter(stopped_at__isnull=False, stored_at=None).order_by("began_at")


def left_here() -> QuerySet[Recording]:
    """Those of them whose bytes are on this machine."""
    return unstored().filter(machine__in=("", lease.machine()))


def finish(recording: Recording, retime: bool = True) -> bool:
    """Store a recording that has ended; whether all of it is stored now.

    `retime` times its runs from the file and stores those that are missing. Raises what says that the database is
    away; everything else becomes the recording's trouble.
    """
    try:
        _finish(recording, retime)
    except AWAY:
        raise
    except (CantStoreError, store.StoreError) as error:
        trouble = str(error)
    except Exception as error:
        logger.exception("the recording %s could not be stored", recording.spool)
        trouble = f"{type(error).__name__}: {error}. The log has more."
    else:
        return True
    with transaction.atomic():
        Recording.objects.filter(pk=recording.pk).update(trouble=trouble[:500])
        if trouble[:500] != recording.trouble:
            in_trouble.send(sender=Recording, name=str(recording), trouble=trouble)
    return False


def _finish(recording: Recording, retime: bool) -> None:
    if recording.machine not in ("", lease.machine()):
        raise CantStoreError(f"Its bytes are on {recording.machine}, which stores them once it runs.")
    folder = keeping.folder_of(recording)
    data, frames = (_bytes(folder / name) for name in ("receiver", CAN_FILE))
    if not data and recording.log is None:
        _mark(recording, recording.began_at)
        shutil.rmtree(folder, ignore_errors=True)
        return
    reading = _reading(data)
    log = recording.log or keeping.open_log(recording, reading.trace.start_utc, reading.format, reading.trace.rate_hz)
    can = recording.recorder.can if recording.recorder else None
    can_log = CanUpload("can.log", frames, (can.dbc if can else "") or None)
    aligned = _aligned(can_log, reading.trace)
    if retime:
        _store_missing_runs(recording, data, aligned)
    sha256 = _kept(data)
    can_sha256 = _kept(frames) if frames else ""
    with transaction.atomic():
        _complete(log, reading, sha256, len(data))
        if aligned and not CanLog.objects.filter(log=log).exists():
            can_logs.record(log, can_log, can_sha256, aligned)
        _mark(recording, log.start_utc + timedelta(seconds=reading.trace.duration_s))
    if frames and not aligned:
        logger.warning("the CAN frames of %s match no drive; the store has them as %s", folder, can_sha256)
    shutil.rmtree(folder, ignore_errors=True)  # all of it is in the store, verified


def _mark(recording: Recording, ended_at: object) -> None:
    now = timezone.now()
    Recording.objects.filter(pk=recording.pk).update(ended_at=ended_at, stored_at=now, trouble="")
    Recording.objects.filter(pk=recording.pk, stopped_at=None).update(stopped_at=now)


def _kept(data: bytes) -> str:
    sha256 = hashlib.sha256(data).hexdigest()
    store.keep(data, sha256, settings.SPOOL_FLOOR_BYTES)
    return sha256


def _reading(data: bytes) -> Reading:
    if not data:
        raise CantStoreError("Its spool is gone, so its bytes can't be stored.")
    try:
        return read_log(data)
    except ReadError as error:
        raise CantStoreError(f"{len(data)} bytes came from the receiver, and no fix could be read: {error}.") from None


def _store_missing_runs(recording: Recording, data: bytes, can_data: AlignedCan | None) -> None:
    """Time the file and store what is not there yet; a run that can't be stored holds up none of the others."""
    recorder = recording.recorder
    setup = recorder.setup if recorder else recording.setup
    assert setup
    conditions = {
        "course": recorder.course if recorder else None,
        "receiver": keeping.receiver_of(recorder) if recorder else recording.name[:80],
    }
    analysis = analyse_log(data, request_for(setup, conditions))
    failures = []
    for timed in analysis.runs:
        try:
            keeping.keep_run(recording, timed, analysis.reading.trace, can_data, conditions)
        except AWAY:
            raise
        except Exception as error:
            logger.exception("a run of the recording %s could not be stored", recording.spool)
            failures.append(f"{type(error).__name__}: {error}")
    note_untimed(recording.log or Log.objects.get(recording=recording), analysis.untimed)
    for gap in GapFinder().feed(analysis.reading.trace):
        _keep_gap(recording, gap)
    if failures:
        message = f"{len(failures)} of {len(analysis.runs)} runs could not be stored: {failures[0]}"
        raise CantStoreError(f"{message}. The log has more.")


def _keep_gap(recording: Recording, gap: FoundGap) -> None:
    """Store a gap, unless it was found while it lasted: that one knows its cause, and begins at the same fix."""
    if not recording.gaps.filter(from_s__range=(gap.from_s - 0.01, gap.from_s + 0.01)).exists():
        keeping.keep_gap(recording, gap.from_s, gap.to_s, gap.cause)


def _complete(log: Log, reading: Reading, sha256: str, size: int) -> None:
    """Fill in what is known of the whole log only."""
    log.sha256, log.size_bytes, log.format = sha256, size, reading.format
    log.fixes, log.rejected = len(reading.trace), reading.rejections.total
    log.rate_hz, log.duration_s = reading.trace.rate_hz, reading.trace.duration_s
    log.save()
    kept = reading.rejections[: Rejection.MOST_KEPT]
    log.rejections.all().delete()
    Rejection.objects.bulk_create(Rejection(log=log, line=row.line, reason=row.reason[:200]) for row in kept)


def _aligned(can_log: CanUpload, trace: Trace) -> AlignedCan | None:
    """The CAN log on the receiver's clock; None where there is none, or where it shows another drive."""
    try:
        return align(can_log.read(), trace) if can_log.data else None
    except (CanError, NoMatchError):
        return None


def discard(recording: Recording) -> None:
    """Give up what could not be stored: its spool is moved aside, where it stays for whoever wants it after all."""
    folder = keeping.folder_of(recording)
    with hold(folder / LOCK):
        aside = Path(settings.SPOOL) / DISCARDED / folder.name
        aside.parent.mkdir(parents=True, exist_ok=True)
        folder.replace(aside)
        _mark(recording, recording.ended_at or recording.began_at)


def finish_all(everything: bool) -> list[Recording]:
    """Store what has ended, `everything` or only what was never tried; those that still can't be stored."""
    waiting = left_here() if everything else left_here().filter(trouble="")
    return [recording for recording in waiting if not _finish_alone(recording)]


def _finish_alone(recording: Recording) -> bool:
    """Store one, unless another process works on it."""
    try:
        lock = hold(keeping.folder_of(recording) / LOCK)
    except BlockingIOError:
        return True
    with lock:
        recording.refresh_from_db()
        return recording.stored_at is not None or finish(recording)


def _bytes(path: Path) -> bytes:
    return path.read_bytes() if path.exists() else b""
