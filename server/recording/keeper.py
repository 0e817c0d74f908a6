"""A recorder's side of the database, in a thread of its own: a database that is away only makes its work wait."""

from __future__ import annotations

import logging
import threading
import time
import uuid
from collections import deque
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import close_old_connections, connection
from django.forms.models import model_to_dict
from django.utils import timezone

from config.connections import AWAY
from config.metrics import GAPS
from coombe_core.analysis import Request
from coombe_core.timing.measures import parse_measure
from coombe_core.trace import Trace
from recording import keeping, lease, memory
from recording.broadcast import Broadcast
from recording.connecting import Place, place_of
from recording.findings import Found, FoundGap
from recording.finishing import finish
from recording.models import Recorder, Recording
from runs.models import ClockName
from runs.storing import request_for

POLL_S = 0.5
AWAY_S = 0.5
LONGEST_WAIT_S = 15.0
LEFT_TO_STORE = "Part of this recording is not stored yet. Nothing is lost; see Record."
logger = logging.getLogger(__name__)
CACHED = ("id", "name", "measure", "clock", "setup_id", "course_id", "started_by_id")


@dataclass(frozen=True)
class Aim:
    """What a recorder records for: the measure and its clock, its devices, and what the core should know besides."""

    recorder: Recorder
    measure: str
    from_rollout: bool
    request: Request
    places: tuple[Place, ...] = ()
    elevation_m: float = 0.0


class NeverRecordedError(Exception):
    """The database is away, and this machine has not recorded with it before; its text is a sentence."""


class Keeper:
    """Does everything that touches the database, in order, again and again until it is done.

    Nothing that fails ends its thread: what can't be stored is left to `finishing`, which has the spool.
    """

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
        self._began_at = timezone.now()
        self._log_facts: tuple[datetime, str, float] | None = None
        self._left_out = False  # something could not be stored: the file is timed again at the end
        self._look_again = False
        self._failures = 0
        self._machine = lease.machine()
        self._held_at_s = -lease.RENEWED_EVERY_S

    @property
    def folder(self) -> Path:
        """The spool of this recording."""
        return Path(settings.SPOOL) / self._spool

    @property
    def waiting(self) -> int:
        """How many things are yet to be stored."""
        return len(self._jobs)

    def first_aim(self) -> Aim:
        """What to record, from the database; where it is away, as it was the last time.

        Raises HeldError where another machine records with it, and NeverRecordedError.
        """
        try:
            self.aim = self._aim_now()
            lease.take(self.recorder_id, self._machine)
            self._spool = str(keeping.current(self.aim.recorder).spool)
            Recorder.objects.filter(pk=self.recorder_id).update(trouble="")
        except AWAY:
            self._remembered()
        else:
            self._remember()
        return self.aim

    def start(self, aimed: Callable[[], None]) -> None:
        """Begin; `aimed` is called whenever what to record for has changed."""
        self._aimed = aimed
        self._jobs.append(self._tell_port)
        self._thread = threading.Thread(target=self._go_on, name="keeper", daemon=True)
        self._thread.start()

    def has_log(self, start_utc: datetime, log_format: str, trace: Trace) -> None:
        """The recording has its first fixes."""
        if self._log_facts is None:
            self._log_facts = (start_utc, log_format, trace.rate_hz)
            self._put(self._open_log)

    def keep(self, found: Found | FoundGap, conditions: dict[str, Any]) -> None:
        """Store a run or a gap."""
        if isinstance(found, FoundGap):
            GAPS.labels(found.cause).inc()
            self._put(lambda: keeping.keep_gap(self._running(), found.from_s, found.to_s, found.cause))
        else:
            self._put(lambda: self._keep_run(found, conditions))

    def leave_out(self) -> None:
        """Something was found that could not be passed on: look for it in the file at the end."""
        self._left_out = True
        self.trouble = LEFT_TO_STORE

    def look_again(self) -> None:
        """Have the file timed again at the end, which lists the runs that could not be timed."""
        self._look_again = True

    def close(self) -> None:
        """End the recording once all else is stored, and wait for that."""
        self._put(self._finish)
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
            except AWAY:
                self.connected = False
                connection.close()
                self._wait(AWAY_S)
            except Exception:  # whatever it is, storing goes on; looks that fail come less often
                logger.exception("storing failed")
                self._failures += 1
                self.trouble = "Storing failed. Coombe keeps trying; the server log has the reason."
                self._wait(min(AWAY_S * 2.0**self._failures, LONGEST_WAIT_S))
            else:
                self.connected, self._failures = True, 0
                self.trouble = LEFT_TO_STORE if self._left_out else ""
        connection.close()

    def _wait(self, seconds: float) -> None:
        with self._more:
            if not self._closing:
                self._more.wait(seconds)
                return
        threading.Event().wait(AWAY_S)

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
                self.leave_out()
            self._jobs.popleft()
        if not self._closing:
            self._look()
            with self._more:
                if not self._jobs and not self._closing:
                    self._more.wait(POLL_S)

    def _tell_port(self) -> None:
        Recorder.objects.filter(pk=self.recorder_id).update(live_port=self.broadcast.port)

    def _running(self) -> Recording:
        """The recording as a row; made where the database was away when it began."""
        if self._recording is None:
            recorder = Recorder.objects.filter(pk=self.recorder_id).first() or self.aim.recorder
            self._recording = keeping.begin(recorder, uuid.UUID(self._spool), self._began_at)
        return self._recording

    def _open_log(self) -> None:
        assert self._log_facts
        keeping.open_log(self._running(), *self._log_facts)

    def _keep_run(self, found: Found, conditions: dict[str, Any]) -> None:
        self._open_log()  # made again where somebody deleted it
        recorder = self.aim.recorder
        course = {"course": recorder.course}
        recording = self._running()
        run = keeping.keep_run(recording, found.run, found.near, found.can_data, {**course, **conditions}, recorder)
        self.last_end_s = found.near.utc_at(found.run.end_s).timestamp()
        self.broadcast.tell({"t": "run", "id": run.pk, "kind": run.kind})

    def _finish(self) -> None:
        recording = self._running()
        recording.refresh_from_db()
        lease.let_go(self.recorder_id, self._machine)
        finish(recording, retime=self._left_out or self._look_again)

    def _look(self) -> None:
        """See whether the recorder is still wanted, and for what; and go on holding it."""
        self._hold()
        recording = self._running()
        recording.refresh_from_db(fields=["stopped_at"])
        try:
            aim = self._aim_now()
        except Recorder.DoesNotExist:
            self.ended.set()
            return
        if not aim.recorder.wanted or recording.stopped_at is not None:
            self.ended.set()
        if (aim.measure, aim.from_rollout, model_to_dict(aim.recorder)) != self._known_aim():
            self.aim = aim
            self._remember()
            self._aimed()

    def _hold(self) -> None:
        now_s = time.monotonic()
        if now_s - self._held_at_s < lease.RENEWED_EVERY_S:
            return
        try:
            lease.take(self.recorder_id, self._machine)
        except lease.HeldError as error:
            logger.warning("recorder %d: %s", self.recorder_id, error)
            self.ended.set()
        self._held_at_s = now_s

    def _known_aim(self) -> tuple[str, bool, dict[str, Any]]:
        return self.aim.measure, self.aim.from_rollout, model_to_dict(self.aim.recorder)

    def _aim_now(self) -> Aim:
        related = ("setup__car", "course", "day__plan", "receiver", "can", "weather_station", "started_by")
        recorder = Recorder.objects.select_related(*related).get(pk=self.recorder_id)
        plan = recorder.day.plan if recorder.day else None
        measure, clock = (plan.measure, plan.clock) if plan else (recorder.measure, recorder.clock)
        course = recorder.course
        request = request_for(recorder.setup, {"course": course, "receiver": keeping.receiver_of(recorder)})
        elevation_m = (course.elevation_m or 0.0) if course else 0.0
        asked = replace(request, measures=[parse_measure(measure)])
        devices = (recorder.receiver, recorder.can, recorder.weather_station)
        places = tuple(place_of(device) for device in devices if device)
        return Aim(recorder, measure, clock == ClockName.ROLLOUT, asked, places, elevation_m)

    @property
    def _memory(self) -> str:
        return f"recorder-{self.recorder_id}"

    def _remember(self) -> None:
        """Keep the aim for a start without the database."""
        known = {name: getattr(self.aim.recorder, name) for name in CACHED}
        cached: dict[str, Any] = {"spool": self._spool, "recorder": known}
        cached["places"] = [asdict(place) for place in self.aim.places]
        memory.remember(self._memory, cached | {"measure": self.aim.measure, "rollout": self.aim.from_rollout})

    def _remembered(self) -> None:
        """What was recorded for the last time; in a spool of its own, unless that recording broke off just now."""
        cached = memory.remembered(self._memory)
        if cached is None:
            sentence = "The database does not answer, and this machine has never recorded with it."
            raise NeverRecordedError(f"{sentence} Connect it to the database once.")
        places = tuple(Place(**place) for place in cached["places"])
        self._spool = cached["spool"]
        self.aim = Aim(Recorder(**cached["recorder"]), cached["measure"], cached["rollout"], Request(), places)
        if not self.folder.exists() or not keeping.is_fresh(self.folder):
            self._spool = str(uuid.uuid4())
            self._remember()
