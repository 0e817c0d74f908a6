"""The devices of a test car, each read in a thread of its own and opened again whenever it goes away."""

from __future__ import annotations

import logging
import socket
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any
from urllib.parse import urlsplit

import can
import serial

from recording.models import Recorder

READ_S = 0.01  # the longest that octets wait in the port
READ_BYTES = 65_536
RETRY_S = 0.25
BUS_SILENT_S = 5.0
logging.getLogger("can").setLevel(logging.CRITICAL)
logger = logging.getLogger(__name__)


class Device:
    """What all devices share: a thread, and whether the device is there."""

    name = "device"

    def __init__(self) -> None:
        self.connected = False
        self.trouble = ""
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._go_on, name=self.name, daemon=True)

    def start(self) -> None:
        """Begin to read."""
        self._thread.start()

    def stop(self) -> None:
        """Read no more."""
        self._ended.set()
        self._thread.join(5.0)

    def _go_on(self) -> None:
        while not self._ended.is_set():
            try:
                self._read()
            except (OSError, can.CanError, ValueError) as error:
                self.trouble = str(error)[:200]
            except Exception:  # whatever a library raises, the device is read again
                logger.exception("the %s could not be read", self.name)
                self.trouble = f"The {self.name} could not be read; the log has the reason."
            self.connected = False
            self._ended.wait(RETRY_S)

    def _read(self) -> None:
        """Open the device and read it until it goes away."""
        raise NotImplementedError


class Receiver(Device):
    """A satellite receiver on a serial port or a socket: `take` is given octets, `opened` is told of every start."""

    name = "receiver"

    def __init__(self, url: str, baud_rate: int, take: Callable[[bytes], None], opened: Callable[[], None]) -> None:
        super().__init__()
        self._url, self._baud_rate, self._take, self._opened = url, baud_rate, take, opened

    def _read(self) -> None:
        with serial.serial_for_url(self._url, baudrate=self._baud_rate, timeout=READ_S) as port:
            self.connected = True
            self._opened()
            while not self._ended.is_set():
                data = port.read(READ_BYTES)
                if data:
                    self._take(data)


class CarBus(Device):
    """A car bus on any python-can interface."""

    name = "bus"

    def __init__(self, interface: str, channel: str, take: Callable[[can.Message], None]) -> None:
        super().__init__()
        self._options = bus_options(interface, channel)
        self._take = take

    def _read(self) -> None:
        if "host" in self._options:  # python-can's own attempts keep a core busy for ten seconds
            socket.create_connection((self._options["host"], self._options["port"]), 5.0).close()
        with can.Bus(**self._options) as bus:
            self.connected = True
            silent_since = time.monotonic()
            while not self._ended.is_set():
                message = bus.recv(0.2)
                if message is not None and not (message.is_error_frame or message.is_remote_frame):
                    silent_since = time.monotonic()
                    self._take(message)
                elif time.monotonic() - silent_since > BUS_SILENT_S:
                    raise OSError("the car bus is silent")


def bus_options(interface: str, channel: str) -> dict[str, Any]:
    """What python-can opens; `host:port/channel` names a daemon on a network."""
    address, slash, name = channel.rpartition("/")
    host, colon, port = address.rpartition(":")
    if slash and colon and port.isdecimal():
        return {"interface": interface, "channel": name, "host": host, "port": int(port)}
    return {"interface": interface, "channel": channel}


class Mast(Device):
    """A weather mast that sends METAR lines over a socket."""

    name = "mast"

    def __init__(self, url: str, take: Callable[[str], None]) -> None:
        super().__init__()
        self._url, self._take = url, take

    def _read(self) -> None:
        parts = urlsplit(self._url)
        with (
            socket.create_connection((parts.hostname or "", parts.port or 0), 5.0) as line,
            line.makefile(encoding="ascii", errors="replace") as lines,
        ):
            line.settimeout(120.0)
            self.connected = True
            for report in lines:
                with suppress(ValueError):
                    self._take(report)
                if self._ended.is_set():
                    return


def devices_of(
    recorder: Recorder,
    octets: Callable[[bytes], None],
    opened: Callable[[], None],
    frame: Callable[[can.Message], None],
    report: Callable[[str], None],
) -> list[Device]:
    """The devices that a recorder names."""
    found: list[Device] = [Receiver(recorder.receiver, recorder.baud_rate, octets, opened)]
    if recorder.bus_interface:
        found.append(CarBus(recorder.bus_interface, recorder.bus_channel, frame))
    if recorder.mast:
        found.append(Mast(recorder.mast, report))
    return found
