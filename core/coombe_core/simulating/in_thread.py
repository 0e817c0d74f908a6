"""Simulated devices in a thread of this process, for tests and trials."""

from __future__ import annotations

import asyncio
import json
import queue
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from coombe_core.simulating.devices import Ports, SimulatedDevices, simulated_devices
from coombe_core.simulating.live_receiver import starting_now
from coombe_core.simulating.receiver import Receiver

START_LIMIT_S = 30.0


@dataclass
class Running:
    """Simulated devices that listen, and their orders."""

    ports: Ports
    made: SimulatedDevices

    def order(self, **order: Any) -> dict[str, Any]:
        """Send one order and give the answer."""
        with (
            socket.create_connection(("127.0.0.1", self.ports.orders), 120) as line,
            line.makefile("rw", encoding="utf-8") as text,
        ):
            text.write(json.dumps(order) + "\n")
            text.flush()
            answer: dict[str, Any] = json.loads(text.readline())
            return answer

    @property
    def truths(self) -> list[dict[str, Any]]:
        """What really happened so far."""
        return self.made.truths

    @property
    def receiver_url(self) -> str:
        """Where pyserial finds the receiver."""
        return f"socket://127.0.0.1:{self.ports.receiver}"


@contextmanager
def running(
    output: str = "nmea", pace: float = 1.0, rate_hz: float = 25.0, first_fix_s: float = 0.0, keep: Path | None = None
) -> Iterator[Running]:
    """Simulated devices for as long as the block lasts."""
    receiver = starting_now(Receiver(rate_hz=rate_hz, latitude_deg=51.31, longitude_deg=-3.02))
    made = simulated_devices(receiver, output, first_fix_s, pace, 7, keep)
    opened: queue.Queue[Ports] = queue.Queue()
    loop = asyncio.new_event_loop()
    task = loop.create_task(made.run(Ports(), opened.put))
    thread = threading.Thread(target=_serve, args=(loop, task), daemon=True)
    thread.start()
    try:
        yield Running(opened.get(timeout=START_LIMIT_S), made)
    finally:
        loop.call_soon_threadsafe(task.cancel)
        thread.join()


def _serve(loop: asyncio.AbstractEventLoop, task: asyncio.Task[None]) -> None:
    with suppress(asyncio.CancelledError):
        loop.run_until_complete(task)
    loop.run_until_complete(asyncio.sleep(0.01))  # for what was closed to be gone
    loop.close()
