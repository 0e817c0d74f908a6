"""Putting into the database what a recorder finds: each run, gap and log once, however often it is found again."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from coombe_core import __version__
from coombe_core.analysis import AnalyzedRun
from coombe_core.detection.can_data import AlignedCan
from coombe_core.trace import Trace
from days.models import ScheduledRun, ScheduledRunState, StepKind
from days.services import settle
from learning.services import charge_per_run
from recording import lease
from recording.models import Gap, GapCause, Recorder, Recording
from runs.models import Log, Run, RunKind, Severity
from runs.storing import SAME_RUN_S, add_run

LONGEST_PAUSE = timedelta(minutes=30)  # a recording that broke off longer ago is not gone on with
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
    """Where the bytes of a recording are until it is stored."""
    return Path(settings.SPOOL) / str(recording.spool)


def current(recorder: Recorder) -> Recording:
    """The recording that goes on, or a new one. One that broke off long ago is left to be stored."""
    running = recorder.recordings.filter(stopped_at=None, machine__in=("", lease.machine())).first()
    if running and is_fresh(folder_of(running)):
        return running
    return begin(recorder, uuid.uuid4(), timezone.now())


def begin(recorder: Recorder, spool: uuid.UUID, began_at: datetime) -> Recording:
    """The recording of a spool, made if need be; those that broke off before it are left to be stored."""
    there = Recorder.objects.filter(pk=recorder.pk).first()  # it may be deleted while its laptop is away
    defaults = {**facts_of(recorder), "recorder": there, "began_at": began_at}
    recording, is_new = Recording.objects.get_or_create(spool=spool, defaults=defaults)
    if is_new:
        others = Recording.objects.filter(recorder_id=recorder.pk, stopped_at=None).exclude(pk=recording.pk)
        others.update(stopped_at=timezone.now())
    return recording


def is_fresh(folder: Path) -> bool:
    """Whether bytes came into a recording's folder a short while ago, or none yet."""
    try:
        written_at = (folder / "receiver").stat().st_mtime
    except OSError:
        return True
    return timezone.now().timestamp() - written_at < LONGEST_PAUSE.total_seconds()


def facts_of(recorder: Recorder) -> dict[str, Any]:
    """What a recording carries of its recorder."""
    facts = {"name": recorder.name, "setup": recorder.setup, "started_by": recorder.started_by}
    return facts | {"machine": lease.machine()}


def open_log(recording: Recording, start_utc: datetime, log_format: str, rate_hz: float) -> Log:
    """The log that a recording's runs belong to, made with its first fixes, and again where somebody deleted it."""
    with transaction.atomic():
        locked = Recording.objects.select_for_update().get(pk=recording.pk)
        if locked.log is None:
            assert locked.started_by
            locked.log = Log.objects.create(
                name=f"{locked.name} {start_utc:%Y-%m-%d %H:%M:%S}",
                size_bytes=0,
                format=log_format,
                fixes=0,
                rejected=0,
                rate_hz=rate_hz,
                start_utc=start_utc,
                duration_s=0,
                core_version=__version__,
                imported_by=locked.started_by,
            )
            locked.save(update_fields=["log"])
    recording.log = locked.log
    return locked.log


def keep_run(
    recording: Recording,
    timed: AnalyzedRun,
    trace: Trace,
    can_data: AlignedCan | None,
    conditions: Mapping[str, Any],
    recorder: Recorder | None = None,
) -> Run:
    """Store a run and link it to the step of the day that it was; a run that is stored already is given as it is.

    `recorder` is what it was recorded with, where that is still there and has a day to go on with.
    """
    with transaction.atomic():
        log = Log.objects.select_for_update().get(recording=recording)
        known = _known(log, timed)
        if known:
            return known
        step = next_step(recorder) if recorder else None
        setup = (step.group.setup if step else None) or (recorder.setup if recorder else recording.setup)
        assert setup
        run = add_run(log, timed, trace, can_data, setup, {**_carried(recording), **conditions})
        if step and fulfills(run, step):
            settle(step, {"state": ScheduledRunState.DONE, "run": run})
    return run


def _known(log: Log, timed: AnalyzedRun) -> Run | None:
    near = Q(start_s__gt=timed.start_s - SAME_RUN_S, start_s__lt=timed.start_s + SAME_RUN_S)
    return log.runs.filter(near, kind=timed.kind).first()


def next_step(recorder: Recorder) -> ScheduledRun | None:
    """What the day wants next."""
    if recorder.day is None:
        return None
    return (
        recorder.day.scheduled_runs.filter(state=ScheduledRunState.OPEN)
        .select_related("group__setup", "day__plan")
        .first()
    )


def fulfills(run: Run, step: ScheduledRun) -> bool:
    """Whether a run is what the step asked for: of its kind, complete, and nothing proposes to void it."""
    proposed = run.flags.filter(severity=Severity.VOID).exists() and not run.decided
    return run.kind == KIND_OF_STEP[StepKind(step.kind)] and run.complete and not proposed


def receiver_of(recorder: Recorder) -> str:
    """By which name its runs call its receiver."""
    last = Run.objects.filter(log__recording__recorder=recorder).order_by("-start_utc").first()
    return last.receiver if last else recorder.name[:80]


def _carried(recording: Recording) -> dict[str, Any]:
    """What was recorded of the last run and stays so; a newcomer's receiver is the recorder's."""
    of_recorder = Run.objects.filter(log__recording__recorder=recording.recorder_id)
    last = of_recorder.order_by("-start_utc").first() if recording.recorder_id else None
    if last is None:
        return {"receiver": recording.name[:80]}
    return {name: getattr(last, name) for name in CARRIED}


def suggested(recorder: Recorder) -> dict[str, float]:
    """What the state at the last pull probably was, from what is known of the pull before it; empty without one."""
    pulls = Run.objects.filter(log__recording__recorder=recorder).exclude(kind=RunKind.STOP).order_by("-start_utc")
    before = next(iter(pulls[1:2]), None)
    if before is None:
        return {}
    cost = charge_per_run(recorder.setup.car).value
    charge = before.charge_after_percent
    if charge is None and before.charge_before_percent is not None:
        charge = before.charge_before_percent - cost
    battery = before.battery_temp_before_c if before.battery_temp_after_c is None else before.battery_temp_after_c
    found = {
        "charge_before_percent": charge,
        "charge_after_percent": None if charge is None else charge - cost,
        "battery_temp_before_c": battery,
        "battery_temp_after_c": battery,
    }
    return {name: round(value, 1) for name, value in found.items() if value is not None}


def keep_gap(recording: Recording, from_s: float, to_s: float, cause: GapCause) -> None:
    """Store a time without fixes, once."""
    Gap.objects.get_or_create(recording=recording, from_s=round(from_s, 3), defaults={"to_s": to_s, "cause": cause})
