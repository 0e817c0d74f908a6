"""Putting into the database what a recorder finds: each run, gap and log once, however often it is found again."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Mapping
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from cars.knowledge import charge_per_run
from coombe_core import __version__
from coombe_core.bus.aligning import AlignedBus, NoMatchError, align
from coombe_core.reading import ReadError, Reading, read_log
from coombe_core.reading.result import BusError
from coombe_core.timing.result import TimedRun
from coombe_core.trace import Trace
from days.models import PlannedRun, StepKind, StepState
from days.services import settle
from recording.models import Gap, GapCause, Recorder, Recording
from runs import car_bus, store
from runs.car_bus import BusUpload
from runs.models import Log, Rejection, Run, RunKind, Severity
from runs.storing import add_run

SAME_RUN_S = 1.0  # two runs of a kind that begin nearer than this are one
KIND_OF_STEP = {StepKind.RUN: RunKind.STANDING, StepKind.ROLL_ON: RunKind.ROLLING, StepKind.STOP: RunKind.STOP}
# What stays as it was at the last run, until somebody says otherwise.
CARRIED = (
    "driver",
    "receiver",
    "receiver_mount",
    "occupants",
    "load_kg",
    "launch_aid",
    "climate_on",
    "surface",
    "drive_mode",
)


def folder_of(recording: Recording) -> Path:
    """Where the octets of a recording lie until it has ended."""
    return Path(settings.SPOOL) / str(recording.spool)


def current(recorder: Recorder) -> Recording:
    """The recording that goes on, or a new one."""
    running = recorder.recordings.filter(ended_at=None).first()
    return running or Recording.objects.create(recorder=recorder, began_at=timezone.now())


def open_log(recording: Recording, start_utc: datetime, log_format: str, rate_hz: float) -> Log:
    """The log that a recording's runs belong to, made with its first fixes."""
    if recording.log:
        return recording.log
    person = recording.recorder.started_by
    assert person
    with transaction.atomic():
        recording.log = Log.objects.create(
            name=f"{recording.recorder.name} {start_utc:%Y-%m-%d %H:%M:%S}",
            size_bytes=0,
            format=log_format,
            fixes=0,
            rejected=0,
            rate_hz=rate_hz,
            start_utc=start_utc,
            duration_s=0,
            core_version=__version__,
            imported_by=person,
        )
        recording.save(update_fields=["log"])
    return recording.log


def keep_run(
    recording: Recording, timed: TimedRun, trace: Trace, bus: AlignedBus | None, conditions: Mapping[str, Any]
) -> Run:
    """Store a run and link it to the step of the day that it was; a run that is stored already is given as it is."""
    with transaction.atomic():
        log = Log.objects.select_for_update().get(recording=recording)
        known = _known(log, timed)
        if known:
            return known
        step = next_step(recording.recorder)
        set_up = (step.arm.set_up if step else None) or recording.recorder.set_up
        run = add_run(log, timed, trace, bus, set_up, {**_carried(recording.recorder), **conditions})
        if step and fulfills(run, step):
            settle(step, {"state": StepState.DONE, "run": run})
    return run


def _known(log: Log, timed: TimedRun) -> Run | None:
    near = Q(start_s__gt=timed.start_s - SAME_RUN_S, start_s__lt=timed.start_s + SAME_RUN_S)
    return log.runs.filter(near, kind=timed.kind).first()


def next_step(recorder: Recorder) -> PlannedRun | None:
    """What the day wants next."""
    if recorder.day is None:
        return None
    return recorder.day.steps.filter(state=StepState.OPEN).select_related("arm__set_up", "day__plan").first()


def fulfills(run: Run, step: PlannedRun) -> bool:
    """Whether a run is what the step asked for: of its kind, complete, and nothing proposes to void it."""
    proposed = run.flags.filter(severity=Severity.VOID).exists() and not run.decided
    return run.kind == KIND_OF_STEP[StepKind(step.kind)] and run.complete and not proposed


def _carried(recorder: Recorder) -> dict[str, Any]:
    """What was written down of the last run and stays so; a newcomer's receiver is the recorder's."""
    last = Run.objects.filter(log__recording__recorder=recorder).order_by("-start_utc").first()
    if last is None:
        return {"receiver": recorder.name[:80]}
    return {name: getattr(last, name) for name in CARRIED}


def suggested(recorder: Recorder) -> dict[str, float]:
    """What the state at the last pull probably was, from what is known of the pull before it; empty without one."""
    pulls = Run.objects.filter(log__recording__recorder=recorder).exclude(kind=RunKind.STOP).order_by("-start_utc")
    before = next(iter(pulls[1:2]), None)
    if before is None:
        return {}
    cost = charge_per_run(recorder.set_up.car).value
    charge = before.charge_after_percent
    if charge is None and before.charge_before_percent is not None:
        charge = before.charge_before_percent - cost
    pack = before.pack_temp_before_c if before.pack_temp_after_c is None else before.pack_temp_after_c
    found = {
        "charge_before_percent": charge,
        "charge_after_percent": None if charge is None else charge - cost,
        "pack_temp_before_c": pack,
        "pack_temp_after_c": pack,
    }
    return {name: round(value, 1) for name, value in found.items() if value is not None}


def keep_gap(recording: Recording, from_s: float, to_s: float, listening: bool) -> None:
    """Store a time without fixes, once."""
    cause = GapCause.NO_FIX if listening else GapCause.NOT_LISTENING
    Gap.objects.get_or_create(recording=recording, from_s=round(from_s, 3), defaults={"to_s": to_s, "cause": cause})


def close(recording: Recording) -> None:
    """End a recording: its octets go to the store, and its log says what is in them."""
    data, frames = (_octets(folder_of(recording) / name) for name in ("receiver", "bus"))
    reading = _reading(data)
    if reading is None or recording.log is None:
        recording.ended_at = timezone.now()
        recording.save(update_fields=["ended_at"])
        return
    sha256 = hashlib.sha256(data).hexdigest()
    store.keep(data, sha256)
    bus = BusUpload("bus.log", frames)
    aligned = _aligned(bus, reading.trace)
    bus_sha256 = bus.keep() if aligned else ""
    with transaction.atomic():
        _complete(recording.log, reading, sha256, len(data))
        if aligned:
            car_bus.record(recording.log, bus, bus_sha256, aligned)
        recording.ended_at = recording.log.start_utc + timedelta(seconds=reading.trace.duration_s)
        recording.save(update_fields=["ended_at"])
    shutil.rmtree(folder_of(recording), ignore_errors=True)  # all of it lies in the store now


def _reading(data: bytes) -> Reading | None:
    try:
        return read_log(data)
    except ReadError:
        return None


def _complete(log: Log, reading: Reading, sha256: str, size: int) -> None:
    """What only the whole log tells."""
    log.sha256, log.size_bytes, log.format = sha256, size, reading.format
    log.fixes, log.rejected = len(reading.trace), reading.rejections.total
    log.rate_hz, log.duration_s = reading.trace.rate_hz, reading.trace.duration_s
    log.save()
    told = reading.rejections[: Rejection.MOST_KEPT]
    Rejection.objects.bulk_create(Rejection(log=log, line=row.line, reason=row.reason[:200]) for row in told)


def _aligned(bus: BusUpload, trace: Trace) -> AlignedBus | None:
    """The bus on the receiver's clock; None where there is none, or where it shows another drive."""
    try:
        return align(bus.read(), trace) if bus.data else None
    except (BusError, NoMatchError):
        return None


def _octets(path: Path) -> bytes:
    return path.read_bytes() if path.exists() else b""
