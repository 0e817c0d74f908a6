"""Many people at once, and files that ask for much, against a web server: does anything fail, does memory return?"""

from __future__ import annotations

import io
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date

from cars.models import Car, Setup
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs.models import Import, Log, Run
from trials.served import Web

READERS, UPLOADERS = 50, 8
PAGES = ("/api/v1/session/", "/api/v1/runs/", "/api/v1/cars/", "/api/v1/comparisons/", "/api/v1/logs/")
SETTLE_S = 3.0
MOST_GROWTH = 1.2


@dataclass
class Load:
    """What the load came to: answers by status, and memory before and after each heavy file (MiB)."""

    read: Counter[int] = field(default_factory=Counter)
    uploaded: Counter[int] = field(default_factory=Counter)
    heavy: dict[str, tuple[int, float, float]] = field(default_factory=dict)
    logs: int = 0
    asked: int = 0

    @property
    def held(self) -> bool:
        """Whether every request was answered, every upload stored once, and memory came back."""
        answered = set(self.read) <= {200} and set(self.uploaded) <= {202} and self.logs == self.asked
        return answered and all(
            code < 500 and after <= MOST_GROWTH * before for code, before, after in self.heavy.values()
        )

    def __str__(self) -> str:
        rows = [
            f"{READERS} readers: {self.read.total()} answers, by status {dict(self.read)}",
            f"{self.asked} uploads, {UPLOADERS} at a time: by status {dict(self.uploaded)}, {self.logs} logs stored",
        ]
        for name, (code, before, after) in self.heavy.items():
            rows.append(f"{name}: answered {code}; memory {before:.0f} -> {after:.0f} MiB ({after / before:.2f} times)")
        return "\n".join(rows)


def _until_imported() -> None:
    """Wait until no import is left to do."""
    while Import.objects.filter(ended_at=None).exists():
        time.sleep(0.2)


def load(seconds: float, uploads: int) -> Load:
    """Read for some seconds, upload a number of small logs, then send each heavy file; all against one web process."""
    found = Load(asked=uploads)
    car = Car.objects.create(name=f"Loaded {uuid.uuid4().hex[:8]}")
    setup = Setup.objects.create(car=car, name="as it is", since=date(2026, 1, 1))
    web = Web()
    try:
        _at_once(READERS, lambda place: _read(web, found, seconds))
        before = Log.objects.count()
        _at_once(UPLOADERS, lambda place: _upload(web, found, setup.pk, range(place, uploads, UPLOADERS)))
        _until_imported()
        found.logs = Log.objects.count() - before
        run = _a_run(web, setup.pk)
        for name, send in _heavy(web, setup.pk, run).items():
            time.sleep(SETTLE_S)
            held = web.memory_mib
            code = send()
            _until_imported()
            time.sleep(SETTLE_S)
            found.heavy[name] = code, held, web.memory_mib
    finally:
        web.stop()
    return found


def _at_once(count: int, act: Callable[[int], None]) -> None:
    threads = [threading.Thread(target=act, args=(place,)) for place in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def _read(web: Web, found: Load, seconds: float) -> None:
    until, turn = time.monotonic() + seconds, 0
    while time.monotonic() < until:
        status = web.ask("GET", PAGES[turn % len(PAGES)])
        found.read[status] += 1
        turn += 1


def _upload(web: Web, found: Load, setup: int, numbers: range) -> None:
    for number in numbers:
        second = f"{number // 3600 % 24:02d}{number // 60 % 60:02d}{number % 60:02d}"
        lines = "\n".join(f"2026-05-09T{second[:2]}:{second[2:4]}:{second[4:]}.{tenth}Z,0.0" for tenth in range(10))
        status = web.send(
            "/api/v1/logs/", {"file": (f"{number}.csv", f"utc,speed_mps\n{lines}\n".encode())}, setup=setup
        )
        found.uploaded[status] += 1


def _a_run(web: Web, setup: int) -> int:
    log = write_log(simulate(SCENARIOS["clean-run"], 5).trace, "nmea")
    web.send("/api/v1/logs/", {"file": ("run.nmea", log)}, setup=setup)
    _until_imported()
    return Run.objects.latest("pk").pk


def _heavy(web: Web, setup: int, run: int) -> dict[str, Callable[[], int]]:
    """Files that ask for much; each gives the worst status of its answers."""
    wall, markers, table = _wall(), _markers(), _table()

    def attach(name: str, data: bytes) -> int:
        return web.send("/api/v1/attachments/", {"file": (name, data)}, run=run)

    def five_walls() -> int:
        codes: list[int] = []
        _at_once(5, lambda place: codes.append(attach("wall.png", wall)))
        return max(codes)

    deep = b'{"name": ' + b"[" * 100_000 + b"]" * 100_000 + b"}"
    return {
        "a first picture": lambda: attach("wall.png", wall),
        "five pictures of 49 million pixels at once": five_walls,
        "a PDF with a megabyte of EXIF markers": lambda: attach("sheet.pdf", markers),
        "a Parquet table of 20 million rows": lambda: web.send(
            "/api/v1/logs/", {"file": ("a.parquet", table)}, setup=setup
        ),
        "JSON nested 100,000 deep": lambda: web.ask("POST", "/api/v1/cars/", deep),
    }


def _wall() -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (7000, 7000), (9, 9, 9)).save(out, "PNG")
    return out.getvalue()


def _markers() -> bytes:
    from PIL import Image
    from pypdf import PdfWriter
    from pypdf.generic import StreamObject

    page = io.BytesIO()
    Image.new("RGB", (40, 20)).save(page, "PDF")
    writer = PdfWriter(clone_from=io.BytesIO(page.getvalue()))
    segment = b"\xff\xe1" + (10).to_bytes(2, "big") + b"Exif\x00\x00ab"
    for found in writer._objects:
        if isinstance(found, StreamObject) and found.get("/Filter") == "/DCTDecode":
            found._data = found._data[:2] + segment * 87_000 + found._data[2:]
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()


def _table() -> bytes:
    import numpy as np
    import polars as pl

    out = io.BytesIO()
    rows = np.zeros(20_000_000)
    pl.DataFrame({"elapsed_s": rows, "speed_mps": rows}).write_parquet(out)
    return out.getvalue()
