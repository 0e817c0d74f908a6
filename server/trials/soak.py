"""A long recording against simulated devices: is memory flat, is every fix kept, and how soon is it on screen?"""

from __future__ import annotations

import json
import socket
import subprocess
import sys
import threading
import time
from dataclasses import dataclass, field
from datetime import date

import numpy as np
from django.db import close_old_connections

from accounts.models import User
from cars.models import Car, Setup
from coombe_core.simulating.in_thread import Running, running
from recording.broadcast import HOST
from recording.models import Recorder, Recording
from recording.simulated import devices_at
from runs.models import Run
from trials.memory import memory_mib

LOOK_S = 5.0
PULL_EVERY_S = 60.0
SETTLED_SHARE = 0.2  # of the time, after which memory should not grow any more
MOST_GROWTH = 1.1
START_LIMIT_S = 60.0


@dataclass
class Soak:
    """What a soak found. Memory in MiB every LOOK_S, delays from a fix's arrival to its telling in ms."""

    minutes: float
    rate_hz: float
    memory_mib: list[float] = field(default_factory=list)
    delays_ms: list[float] = field(default_factory=list)
    fixes: int = 0
    missed: int = 0
    gaps: int = 0
    pulls: int = 0
    runs: int = 0

    @property
    def growth(self) -> float:
        """Memory at the end as a share of what it was once settled, each over a tenth of the time."""
        size = len(self.memory_mib)
        early, tenth = int(SETTLED_SHARE * size), max(size // 10, 1)
        return float(np.mean(self.memory_mib[-tenth:]) / np.mean(self.memory_mib[early : early + tenth]))

    @property
    def held(self) -> bool:
        """Memory flat, no fix missed, every pull found."""
        return self.growth <= MOST_GROWTH and not self.missed and not self.gaps and self.runs >= self.pulls

    def __str__(self) -> str:
        rows = {
            "recorded": f"{self.minutes:.0f} min at {self.rate_hz:.0f} Hz, {self.fixes} fixes",
            "fixes missed": f"{self.missed}, gaps {self.gaps}",
            "pulls driven, runs stored": f"{self.pulls}, {self.runs} (with the stops)",
            "memory, end over settled": f"{self.memory_mib[-1]:.0f} MiB, {self.growth:.3f}",
            "from a fix's arrival to its telling": f"p95 {np.percentile(self.delays_ms, 95):.1f} ms",
        }
        return "\n".join(f"{name:36} {value}" for name, value in rows.items())


def soak(minutes: float, rate_hz: float) -> Soak:
    """Record for so long, with a pull a minute, and say what was found."""
    found = Soak(minutes, rate_hz)
    with running(rate_hz=rate_hz) as made:
        recorder = _recorder(made)
        process = subprocess.Popen([sys.executable, "manage.py", "record", str(recorder.pk)])
        listener = threading.Thread(target=_listen, args=(recorder.pk, found), daemon=True)
        listener.start()
        _drive(found, made, process.pid)
        Recorder.objects.update(wanted=False)
        process.wait()
    close_old_connections()
    recording = Recording.objects.get()
    log = recording.log
    assert log
    found.fixes = log.fixes
    found.missed = round(log.duration_s * rate_hz) + 1 - log.fixes
    found.gaps, found.runs = recording.gaps.count(), Run.objects.count()
    return found


def _recorder(made: Running) -> Recorder:
    setup = Setup.objects.create(car=Car.objects.create(name="Soaked"), name="as it is", since=date(2026, 1, 1))
    return Recorder.objects.create(
        name="Soak",
        setup=setup,
        **devices_at("Soak", vars(made.ports)),
        wanted=True,
        started_by=User.objects.create(username="soak"),
    )


def _drive(found: Soak, made: Running, pid: int) -> None:
    """Once it records, order a pull a minute and note the memory, until the time is over and the car waits."""
    limit = time.monotonic() + START_LIMIT_S
    while not found.delays_ms and time.monotonic() < limit:
        time.sleep(LOOK_S)
    begun = time.monotonic()
    while (passed := time.monotonic() - begun) < found.minutes * 60 or not made.order()["idle"]:
        if passed >= PULL_EVERY_S * found.pulls and passed < found.minutes * 60 - PULL_EVERY_S / 2:
            made.order(drive="launch")
            found.pulls += 1
        time.sleep(LOOK_S)
        found.memory_mib.append(memory_mib(pid))


def _listen(pk: int, found: Soak) -> None:
    """Take the recorder's glances as a web worker would."""
    with socket.create_connection((HOST, _port(pk))) as line, line.makefile() as lines:
        for report in map(json.loads, lines):
            if report["t"] == "glance":
                found.delays_ms.append(1000 * (time.time() - report["arrived_at"]))


def _port(pk: int) -> int:
    limit = time.monotonic() + START_LIMIT_S
    while time.monotonic() < limit:
        port = Recorder.objects.get(pk=pk).live_port
        if port:
            return port
        time.sleep(0.2)
    raise TimeoutError("the recorder did not start")
