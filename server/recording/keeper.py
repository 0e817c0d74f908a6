"""A recorder's side of the database, in a thread of its own: a database that is away only makes its work wait."""

from __future__ import annotations

import json
import logging
import threading
import time
import uuid
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import InterfaceError, OperationalError, close_old_connections, connection
from django.forms.models import model_to_dict
from django.utils import timezone

from coombe_core.analysis import Request
from coombe_core.timing.measure import parse_measure
from coombe_core.trace import Trace
from recording import keeping
from recording.broadcast import Broadcast
from recording.findings import Found, FoundGap
from recording.models import Recorder, Recording
from runs.models import ClockName
from runs.storing import request_for

POLL_S = 0.5
AWAY = (OperationalError, InterfaceError)
logger = logging.getLogger(__name__)
AWAY_S = 0.5
CACHED = ("name", "measure", "clock", "receiver", "baud_rate", "bus_interface", "bus_channel", "dbc", "mast")


@dataclass(frozen=True)
class Aim:
    """What a recorder records for: the measure and its clock, and what the core should know of car and course."""

    recorder: Recorder
    measure: str
    from_rollout: bool
    request: Request
    elevation_m: float = 0.0


class Keeper:
    """Does everything that touches the database, in order, again and again until it is done."""

    def __init__(self, recorder_id: int, broadcast: Broadcast) -> None:
        self.recorder_id, self.broadcast = recorder_id, broadcast
        self.ended = threading.Event()
        self.connected = True
        self.trouble = ""
        self.last_end_s: float | None = None
        self._jobs: deque[Callable[[], None]] = deque()
        self._more = threading.Condition()
        self._closing = False
        self._spool = ""
        self._recording: Recording | None = None
        self._has_log = False

    @property
    def folder(self) -> Path:
        """The spool of this recording."""
        return Path(settings.SPOOL) / self._spool

    @property
    def waiting(self) -> int:
        """How many things are yet to be stored."""
        return len(self._jobs)

    def first_aim(self) -> Aim:
        """What to record, from the database; where it is away, as it was the last time."""
        try:
            self.aim = self._aim_now()
            self._spool = str(keeping.current(self.aim.recorder).spool)
            self._remember()
        except AWAY:
            self.aim = self._remembered()
        return self.aim

    def start(self, aimed: Callable[[], None]) -> None:
        """Begin; `aimed` is called whenever what to record for has changed."""
        self._aimed = aimed
        self._jobs.append(self._begin)
        self._thread = threading.Thread(target=self._go_on, name="keeper", daemon=True)
        self._thread.start()

    def has_log(self, start_utc: datetime, log_format: str, trace: Trace) -> None:
        """The recording has its first fixes."""
        if not self._has_log:
            self._has_log = True
            self._put(lambda: self._open_log(start_utc, log_format, trace.rate_hz))

    def keep(self, found: Found | FoundGap, conditions: dict[str, Any]) -> None:
        """Store a run or a gap."""
        if isinstance(found, FoundGap):
            self._put(lambda: keeping.keep_gap(self._running(), found.from_s, found.to_s, found.listening))
        else:
            self._put(lambda: self._keep_run(found, conditions))

    def close(self) -> None:
        """End the recording once all else is stored, and wait for that."""
        self._put(lambda: keeping.close(self._running()))
        with self._more:
            self._closing = True
            self._more.notify()
        self._thread.join()

    def _put(self, job: Callable[[], None]) -> None:
        with self._more:
            self._jobs.append(job)
            self._more.notify()

    def _go_on(self) -> None:
        while self._jobs or not self._closing:
            try:
                self._work()
                self.connected = True
            except AWAY:
                self.connected = False
                connection.close()
                time.sleep(AWAY_S)
        connection.close()

    def _work(self) -> None:
        """Whatever is to be stored, then a look at what is wanted."""
        close_old_connections()
        while self._jobs:
            try:
                self._jobs[0]()
            except AWAY:
                raise
            except Exception:  # one thing that can't be stored must not hold up all others; the spool still has it
                logger.exception("something that was recorded could not be stored")
                self.trouble = "Something that was recorded could not be stored; the log has the reason."
            self._jobs.popleft()
        if not self._closing:
            self._look()
            with self._more:
                if not self._jobs and not self._closing:
                    self._more.wait(POLL_S)

    def _begin(self) -> None:
        recorder = Recorder.objects.get(pk=self.recorder_id)
        made = {"recorder": recorder, "began_at": timezone.now()}
        self._recording, _ = Recording.objects.get_or_create(spool=uuid.UUID(self._spool), defaults=made)
        Recorder.objects.filter(pk=self.recorder_id).update(live_port=self.broadcast.port)

    def _running(self) -> Recording:
        assert self._recording
        return self._recording

    def _open_log(self, start_utc: datetime, log_format: str, rate_hz: float) -> None:
        keeping.open_log(self._running(), start_utc, log_format, rate_hz)

    def _keep_run(self, found: Found, conditions: dict[str, Any]) -> None:
        recording = self._running()
        recording.recorder = self.aim.recorder
        course = {"course": self.aim.recorder.course}
        run = keeping.keep_run(recording, found.run, found.near, found.bus, {**course, **conditions})
        self.last_end_s = found.near.utc_at(found.run.end_s).timestamp()
        self.broadcast.tell({"t": "run", "id": run.pk, "kind": run.kind})

    def _look(self) -> None:
        """See whether the recorder is still wanted, and for what."""
        aim = self._aim_now()
        if not aim.recorder.wanted:
            self.ended.set()
        if (aim.measure, aim.from_rollout, model_to_dict(aim.recorder)) != self._known_aim():
            self.aim = aim
            self._remember()
            self._aimed()

    def _known_aim(self) -> tuple[str, bool, dict[str, Any]]:
        return self.aim.measure, self.aim.from_rollout, model_to_dict(self.aim.recorder)

    def _aim_now(self) -> Aim:
        recorder = Recorder.objects.select_related("set_up__car", "course", "day__plan").get(pk=self.recorder_id)
        plan = recorder.day.plan if recorder.day else None
        measure, clock = (plan.measure, plan.clock) if plan else (recorder.measure, recorder.clock)
        course = recorder.course
        request = request_for(recorder.set_up, {"course": course})
        elevation_m = (course.elevation_m or 0.0) if course else 0.0
        asked = Request([parse_measure(measure)], request.surveyed, request.correction, request.stated_power_w)
        return Aim(recorder, measure, clock == ClockName.ROLLOUT, asked, elevation_m)

    @property
    def _cache(self) -> Path:
        return Path(settings.SPOOL) / f"recorder-{self.recorder_id}.json"

    def _remember(self) -> None:
        known = {name: getattr(self.aim.recorder, name) for name in CACHED}
        told = {"spool": self._spool, "recorder": known, "measure": self.aim.measure, "rollout": self.aim.from_rollout}
        self._cache.parent.mkdir(parents=True, exist_ok=True)
        self._cache.write_text(json.dumps(told))

    def _remembered(self) -> Aim:
        told = json.loads(self._cache.read_text())
        self._spool = told["spool"]
        return Aim(Recorder(**told["recorder"]), told["measure"], told["rollout"], Request())
