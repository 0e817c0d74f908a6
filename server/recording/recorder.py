"""The process of one recorder: devices -> spool -> glances for the screens, and runs and gaps for the database.

The receiver's thread only appends, reads and reports. Timing and the database have threads of their own: a run
that takes long to time, or a database that is away, holds nothing up.
"""

from __future__ import annotations

import logging
import queue
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import can
from django.conf import settings

from config.metrics import FIXES
from coombe_core.analysis import Request
from coombe_core.formats.can_log import load_dbc
from coombe_core.formats.reading import CanError
from coombe_core.live.can import LiveCan
from coombe_core.live.status import Glance, Reached, StripWatch
from coombe_core.timing.measures import parse_measure
from coombe_core.trace import Trace
from recording.broadcast import Broadcast
from recording.devices import Receiver, devices_of
from recording.findings import LEAST_GAP_S, Findings, Found, taken_up
from recording.keeper import Keeper
from recording.models import DeviceKind, GapCause
from recording.relaying import Relay
from recording.spool import LOCK, Spool, hold
from recording.weather import Weather

GLANCE_S = 1 / 30  # glances are reported no more often than a screen shows them
STATE_S = 0.5
SILENT_S = 1.5
ENDED = None
FULL = "disk full"
CAUSE_KEPT_S = 5.0  # of fixes without a gap, after which an earlier cause explains no later one
logger = logging.getLogger(__name__)


class RecorderProcess:
    """Records until the recorder is no longer wanted, or the process is to end.

    Raises BlockingIOError where another process records with it: two would write into one spool.
    """

    def __init__(self, recorder_id: int) -> None:
        self._alone = hold(Path(settings.SPOOL) / f"recorder-{recorder_id}.lock")
        self.broadcast = Broadcast(self._heard)
        self.keeper = Keeper(recorder_id, self.broadcast)
        self.aim = self.keeper.first_aim()
        self.watch = StripWatch(parse_measure(self.aim.measure), self.aim.from_rollout)
        self.can_data = LiveCan(self._readable_dbc())
        self.weather = Weather()
        self.findings = Findings(Request(), self.can_data)
        self._held = hold(self.keeper.folder / LOCK)
        self.spool = Spool(self.keeper.folder, settings.SPOOL_FLOOR_BYTES)
        self.reader, self._before = taken_up(self.spool.receiver.path)
        self._lock = threading.Lock()
        self._pieces: queue.SimpleQueue[tuple[Trace, GapCause] | None] = queue.SimpleQueue()
        self._last_s = float(self._before.elapsed_s[-1]) if self._before else None
        self._missed_s = 0.0
        self._miss(GapCause.NOT_LISTENING)  # why fixes before the next piece are missing
        self._fixes = len(self._before) if self._before else 0
        self._fix_at = self._told_at = 0.0
        self._timing_trouble = ""
        self._news: tuple[str, Reached | None] | None = None
        self._staged: dict[str, float] = {}
        self.devices = devices_of(self.aim.places, self._bytes, self._opened, self._frame, self.weather.take)

    def run(self) -> None:
        """Until the recorder is no longer wanted; what was found by then is stored and the recording closed."""
        self.keeper.start(self._aimed)
        if settings.CLUSTER:
            Relay(self.keeper.recorder_id, self.broadcast, self._heard).start()
        timing = threading.Thread(target=self._time, name="timing", daemon=True)
        timing.start()
        for device in self.devices:
            device.start()
        while not self.keeper.ended.wait(STATE_S):
            self._tell_state()
        for device in self.devices:
            device.stop()
        self._pieces.put(self._last_piece())
        self._pieces.put(ENDED)
        timing.join()
        try:
            self.spool.close()
        except OSError:
            logger.exception("the spool could not be synced at the end")
        self.keeper.close()

    def _bytes(self, data: bytes) -> None:
        """What the receiver sent: to the spool before anything else, and nothing that the spool did not take."""
        arrived_at = time.time()
        was_full = self.spool.receiver.is_full
        kept = self.spool.receiver.append(data)
        if kept < len(data):
            self._miss(GapCause.NO_ROOM)
            if not was_full:
                self._tell_stopped(arrived_at)
        received = self.reader.feed(data[:kept])
        for elapsed_s, speed_mps in received.fresh:
            with self._lock:
                self._fix_at = time.monotonic()
                self._tell(self.watch.fix(elapsed_s, speed_mps), arrived_at)
        if received.complete:
            self._fixes += len(received.complete)
            FIXES.labels(self.aim.recorder.name).inc(len(received.complete))
            self._pieces.put((received.complete, self._missed))
            self._explain(float(received.complete.elapsed_s[-1]))

    def _explain(self, now_s: float) -> None:
        """Stop naming a cause once its gap is past: the fix before a gap may come out only with the one after it."""
        past = self._last_s is not None and now_s - self._last_s > LEAST_GAP_S
        if past or now_s > self._missed_s + CAUSE_KEPT_S:
            self._missed = GapCause.NO_ROOM if self.spool.receiver.is_full else GapCause.NO_FIX
        self._last_s = now_s

    def _miss(self, cause: GapCause) -> None:
        self._missed = cause
        self._missed_s = self._last_s if self._last_s is not None else 0.0

    def _opened(self) -> None:
        self._miss(GapCause.NOT_LISTENING)

    def _last_piece(self) -> tuple[Trace, GapCause] | None:
        last = self.reader.finish().complete
        return (last, self._missed) if last else None

    def _readable_dbc(self) -> str | None:
        """The DBC of the CAN device; Coombe's own where it has none, or one that can't be read."""
        self._dbc_trouble = ""
        dbc = next((place.dbc for place in self.aim.places if place.kind == DeviceKind.CAN), "")
        try:
            load_dbc(dbc or None)
        except CanError as error:
            self._dbc_trouble = f"CAN is recorded, but not decoded: {error}."
            return None
        return dbc or None

    def _frame(self, message: can.Message) -> None:
        identifier = f"{message.arbitration_id:08X}" if message.is_extended_id else f"{message.arbitration_id:03X}"
        line = f"({message.timestamp:.6f}) can0 {identifier}#{bytes(message.data).hex().upper()}\n"
        self.spool.can.append(line.encode())
        self.can_data.feed(message.timestamp, message.arbitration_id, bytes(message.data))

    def _tell(self, glance: Glance, arrived_at: float) -> None:
        """Tell a glance where it is news, or a while after the last one."""
        now = time.monotonic()
        word = FULL if self.spool.receiver.is_full else glance.word
        news = (word, glance.reached)
        if glance.word == "staged":
            self._staged = dict(self.can_data.latest)
        if now - self._told_at < GLANCE_S and news == self._news:
            return
        self._told_at, self._news = now, news
        start_utc = self.reader.start_utc
        reached = glance.reached
        self.broadcast.tell(
            {
                "t": "glance",
                "word": word,
                "utc_s": start_utc.timestamp() + glance.elapsed_s if start_utc else None,
                "speed_mps": glance.speed_mps,
                "since_s": glance.since_s,
                "distance_m": glance.distance_m,
                "reached_s": reached.time_s if reached else None,
                "measure": self.watch.target.name,
                "arrived_at": arrived_at,
            }
        )

    def _tell_stopped(self, arrived_at: float) -> None:
        """Say at once that nothing is being recorded."""
        with self._lock:
            self._tell(self.watch.now, arrived_at)

    @property
    def trouble(self) -> str:
        """The worst of what is wrong, in a sentence; empty where nothing is."""
        receiver = next((device for device in self.devices if isinstance(device, Receiver)), None)
        no_answer = receiver.trouble if receiver and not receiver.connected else ""
        spool = self.spool.receiver.trouble or self.spool.can.trouble or self.spool.trouble
        return spool or self.keeper.trouble or self._timing_trouble or no_answer or self._dbc_trouble

    def _tell_state(self) -> None:
        """What changes slowly; and that no fix has come for a while."""
        with self._lock:
            if time.monotonic() - self._fix_at > SILENT_S and self.watch.now.word != "no fix":
                self._tell(self.watch.silent(), time.time())
        self.broadcast.tell(
            {
                "t": "state",
                "charge_percent": self.can_data.latest.get("charge_percent"),
                "battery_temp_c": self.can_data.latest.get("battery_temp_c"),
                "drive_mode": self.can_data.mode,
                "wind_mps": self.weather.wind_mps,
                "wind_from_deg": self.weather.wind_from_deg,
                "outside_temp_c": self.can_data.latest.get("outside_temp_c", self.weather.temp_c),
                "devices": {device.name: device.connected for device in self.devices},
                "trouble": self.trouble,
                "database": self.keeper.connected,
                "waiting": self.keeper.waiting,
                "fixes": self._fixes,
                "last_end_s": self.keeper.last_end_s,
            }
        )

    def _heard(self, message: dict[str, Any]) -> None:
        """A screen says that a person has decided on the result."""
        if message.get("seen"):
            with self._lock:
                self._tell(self.watch.seen(), time.time())

    def _aimed(self) -> None:
        """The day, the setup or the measure has changed."""
        self.aim = self.keeper.aim
        with self._lock:
            self.watch.aim(parse_measure(self.aim.measure), self.aim.from_rollout)
        self.findings.aim(self.aim.request)

    def _time(self) -> None:
        """Find and time runs: first what the spool holds from before, then what comes in."""
        if self._before is not None:
            self._safely(lambda trace: self._take(trace, GapCause.NO_FIX, live=False), self._before)
            self._before = None
        while (piece := self._pieces.get()) is not ENDED:
            self._safely(lambda piece: self._take(piece[0], piece[1], live=True), piece)
        self._safely(lambda _: self._end(), None)

    def _safely(self, act: Callable[[Any], None], given: Any) -> None:
        """Do something with what was found; where that fails, the file is timed again at the end, and live goes on."""
        try:
            act(given)
        except Exception:
            logger.exception("timing failed")
            self._timing_trouble = "A run could not be timed live. Coombe times it again when the recording ends."
            self.findings = Findings(self.aim.request, self.can_data)
            self.keeper.leave_out()

    def _end(self) -> None:
        for found in self.findings.finish():
            self.keeper.keep(found, self._conditions(found.can_data is None))
        if self.findings.untimed:
            self.keeper.look_again()

    def _take(self, trace: Trace, cause: GapCause, live: bool) -> None:
        self.keeper.has_log(trace.start_utc, self.reader.format or "nmea", trace)
        for found in self.findings.feed(trace, cause):
            self.keeper.keep(found, self._conditions(live))
            if live and isinstance(found, Found):
                with self._lock:
                    self._tell(self.watch.timed(), time.time())

    def _conditions(self, from_can: bool) -> dict[str, Any]:
        """The air, and what CAN data say where they can't be aligned: before at staging, after now."""
        found = self.weather.conditions(self.aim.elevation_m)
        if from_can:
            for name, channel in (("charge_{}_percent", "charge_percent"), ("battery_temp_{}_c", "battery_temp_c")):
                found[name.format("before")] = self._staged.get(channel)
                found[name.format("after")] = self.can_data.latest.get(channel)
        return found
