"""People who read, edit and upload all the time, and keep what they were answered: what is stored, and what failed."""

from __future__ import annotations

import http.client
import io
import json
import random
import threading
import time
import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from trials.asking import Asker

PAGES = ("/api/v1/runs/", "/api/v1/cars/", "/api/v1/comparisons/", "/api/v1/logs/", "/api/v1/home/", "/api/v1/session/")
LIMIT_S = 20.0
LONGEST_S = 10.0
SLOW_S = 4.0  # and longer is listed
MOST_FAILED = 0.01


@dataclass
class Asked:
    """What became of all requests: how many, which failed, how long without an answer; and what was acknowledged."""

    count: int = 0
    failed: list[tuple[float, str, str, int]] = field(default_factory=list)
    slow: list[tuple[float, str, str, float]] = field(default_factory=list)
    slowest_s: float = 0.0
    longest_failing_s: float = 0.0
    notes: dict[int, set[str]] = field(default_factory=dict)  # of a car: the latest acknowledged, or later ones unsure
    cars: set[str] = field(default_factory=set)
    uploads: set[str] = field(default_factory=set)
    unsure: set[str] = field(default_factory=set)  # sent, without an answer: it may be there or not
    lock: threading.Lock = field(default_factory=threading.Lock)

    @property
    def failed_share(self) -> float:
        """Of all requests."""
        return len(self.failed) / max(self.count, 1)

    @property
    def held(self) -> bool:
        """Whether few enough failed, and none for too long."""
        return self.failed_share < MOST_FAILED and max(self.slowest_s, self.longest_failing_s) <= LONGEST_S


class Person:
    """One of them, in a thread."""

    def __init__(self, asker: Asker, asked: Asked, began_s: float, seed: int) -> None:
        self._asker, self._asked, self._began_s = asker, asked, began_s
        self._draw = random.Random(seed)
        self._failing_since: float | None = None

    def ask(self, method: str, path: str, body: Mapping[str, Any] | None = None) -> tuple[int, Any]:
        """The status and the answer; what failed is kept."""
        data = None if body is None else json.dumps(body).encode()
        return self._kept(method, path, data, "application/json")

    def _kept(self, method: str, path: str, data: bytes | None, media_type: str) -> tuple[int, Any]:
        begun_s = time.monotonic()
        line = http.client.HTTPConnection("127.0.0.1", self._asker.port, timeout=LIMIT_S)
        status, answer = 0, None
        try:
            line.request(method, path, data, self._asker.headers | {"Content-Type": media_type})
            got = line.getresponse()
            status, raw = got.status, got.read()
            answer = json.loads(raw) if raw[:1] in b"{[" and raw else None
        except (OSError, http.client.HTTPException, ValueError):
            status = 0
        finally:
            line.close()
        self._note(method, path, status, begun_s, time.monotonic())
        return status, answer

    def _note(self, method: str, path: str, status: int, begun_s: float, ended_s: float) -> None:
        bad = status == 0 or status >= 500
        if not bad:
            self._failing_since = None
        elif self._failing_since is None:
            self._failing_since = begun_s
        with self._asked.lock:
            self._asked.count += 1
            if ended_s - begun_s > SLOW_S:
                self._asked.slow.append((begun_s - self._began_s, method, path, ended_s - begun_s))
            self._asked.slowest_s = max(self._asked.slowest_s, ended_s - begun_s)
            if bad:
                self._asked.failed.append((begun_s - self._began_s, method, path, status))
                failing_s = ended_s - (self._failing_since or begun_s)
                self._asked.longest_failing_s = max(self._asked.longest_failing_s, failing_s)

    def read(self, until_s: float) -> None:
        """Look at one list after another, with pauses as people make them."""
        while time.monotonic() < until_s:
            self.ask("GET", self._draw.choice(PAGES))
            time.sleep(self._draw.uniform(1.0, 4.0))

    def edit(self, until_s: float) -> None:
        """Add cars and write notes on one of them."""
        status, car = self.ask("POST", "/api/v1/cars/", {"name": f"Trial {uuid.uuid4().hex[:10]}"})
        revision, turn = (car["revision"], 0) if status == 201 else (0, 0)
        while time.monotonic() < until_s:
            turn += 1
            if turn % 5 == 0 or not revision:
                name = f"Trial {uuid.uuid4().hex[:10]}"
                status, made = self.ask("POST", "/api/v1/cars/", {"name": name})
                with self._asked.lock:
                    (self._asked.cars if status == 201 else self._asked.unsure).add(name)
                if not revision and status == 201:
                    car, revision = made, made["revision"]
            else:
                revision = self._write(car["id"], revision, turn)
            time.sleep(self._draw.uniform(0.3, 1.2))

    def _write(self, car: int, revision: int, turn: int) -> int:
        """Write a note; the revision after it. After a failure it is read what is there."""
        note = f"note {turn}"
        status, saved = self.ask("PATCH", f"/api/v1/cars/{car}/", {"notes": note, "revision": revision})
        if status != 200:
            status, saved = self.ask("GET", f"/api/v1/cars/{car}/")
        with self._asked.lock:
            if status == 200:
                self._asked.notes[car] = {saved["notes"]}
            else:  # it may have been stored though the answer was lost
                self._asked.notes.setdefault(car, {""}).add(note)
        return int(saved["revision"]) if status == 200 else revision

    def upload(self, until_s: float, setup: int) -> None:
        """Send small logs, each once."""
        while time.monotonic() < until_s:
            name = f"{uuid.uuid4().hex}.csv"
            own = uuid.uuid4().int % 10**6  # no two are the same bytes
            lines = "\n".join(f"2026-05-09T10:00:0{second}.0Z,1.{own:06d}" for second in range(10))
            mark, out = uuid.uuid4().hex, io.BytesIO()
            out.write(f'--{mark}\r\nContent-Disposition: form-data; name="setup"\r\n\r\n{setup}\r\n'.encode())
            head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
            out.write(head.encode() + f"utc,speed_mps\n{lines}\n".encode() + f"\r\n--{mark}--\r\n".encode())
            status, _ = self._kept("POST", "/api/v1/logs/", out.getvalue(), f"multipart/form-data; boundary={mark}")
            with self._asked.lock:
                (self._asked.uploads if status in (200, 202) else self._asked.unsure).add(name)
            time.sleep(self._draw.uniform(1.0, 3.0))
