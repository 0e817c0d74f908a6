"""The devices of a test car, each read in a thread of its own and opened again whenever it goes away."""

from __future__ import annotations

import logging
import socket
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import Any

import can
import serial

from recording.connecting import Place, refused
from recording.models import Connection, DeviceKind

READ_S = 0.01  # the longest that bytes wait in the port
READ_BYTES = 65_536
RETRY_S = 0.25
LONGEST_RETRY_S = 5.0
CONNECT_S = 5.0
CAN_SILENT_S = 5.0
NO_ANSWER = "No answer from the {}."
logging.getLogger("can").setLevel(logging.CRITICAL)
logger = logging.getLogger(__name__)


class Device:
    """What all devices share: a thread, and whether the device is there."""

    name = "device"
    title = "device"

    def __init__(self, place: Place) -> None:
        self.place = place
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
        wait_s = RETRY_S
        while not self._ended.is_set():
            try:
                if refused(self.place):
                    raise OSError("this place may not be opened")
                self._read()
            except (OSError, can.CanError, ValueError) as error:
                self._note(error)
            except Exception as error:  # whatever a library raises, the device is read again
                if not self.trouble:
                    logger.exception("the %s could not be read", self.name)
                self._note(error)
            wait_s = RETRY_S if self.connected else min(wait_s * 1.5, LONGEST_RETRY_S)
            self.connected = False
            self._ended.wait(wait_s)

    def _note(self, error: Exception) -> None:
        """The log gets the reason; screens get no more than that nothing answers."""
        if not self.trouble:
            logger.warning("the %s does not answer: %s", self.name, error)
        self.trouble = NO_ANSWER.format(self.title)

    def _read(self) -> None:
        """Open the device and read it until it goes away."""
        raise NotImplementedError

    def _opened(self) -> None:
        self.connected, self.trouble = True, ""


class Receiver(Device):
    """A GPS receiver on a serial port or a socket: `take` is given bytes, `opened` is called at every start."""

    name, title = "receiver", "GPS receiver"

    def __init__(self, place: Place, take: Callable[[bytes], None], opened: Callable[[], None]) -> None:
        super().__init__(place)
        self._take, self._tell_opened = take, opened

    def _read(self) -> None:
        if self.place.connection == Connection.SERIAL:
            self._read_serial()
        else:
            self._read_socket()

    def _read_serial(self) -> None:
        with serial.Serial(self.place.path, baudrate=self.place.baud_rate, timeout=READ_S) as port:
            self._opened()
            self._tell_opened()
            while not self._ended.is_set():
                data = port.read(READ_BYTES)
                if data:
                    self._take(data)

    def _read_socket(self) -> None:
        with socket.create_connection((self.place.host, self.place.port), CONNECT_S) as line:
            line.settimeout(READ_S)
            self._opened()
            self._tell_opened()
            while not self._ended.is_set():
                try:
                    data = line.recv(READ_BYTES)
                except TimeoutError:
                    continue
                if not data:
                    raise OSError("the receiver hung up")
                self._take(data)


class CanData(Device):
    """CAN on an interface of this machine, or behind a socketcand."""

    name, title = "can", "CAN interface"

    def __init__(self, place: Place, take: Callable[[can.Message], None]) -> None:
        super().__init__(place)
        self._take = take

    def _read(self) -> None:
        if self.place.connection == Connection.SOCKETCAND:  # python-can's attempts keep a core busy for ten seconds
            socket.create_connection((self.place.host, self.place.port), CONNECT_S).close()
        with can.Bus(**can_options(self.place)) as frames:
            self._opened()
            silent_since = time.monotonic()
            while not self._ended.is_set():
                message = frames.recv(0.2)
                if message is not None and not (message.is_error_frame or message.is_remote_frame):
                    silent_since = time.monotonic()
                    self._take(message)
                elif time.monotonic() - silent_since > CAN_SILENT_S:
                    raise OSError("CAN is silent")


def can_options(place: Place) -> dict[str, Any]:
    """What python-can opens."""
    if place.connection == Connection.SOCKETCAND:
        return {"interface": "socketcand", "channel": place.channel, "host": place.host, "port": place.port}
    return {"interface": "socketcan", "channel": place.channel}


class WeatherStation(Device):
    """A weather station that sends METAR lines over a socket."""

    name, title = "weather_station", "weather station"

    def __init__(self, place: Place, take: Callable[[str], None]) -> None:
        super().__init__(place)
        self._take = take

    def _read(self) -> None:
        with (
            socket.create_connection((self.place.host, self.place.port), CONNECT_S) as line,
            line.makefile(encoding="ascii", errors="replace") as lines,
        ):
            line.settimeout(120.0)
            self._opened()
            for report in lines:
                with suppress(ValueError):
                    self._take(report)
                if self._ended.is_set():
                    return


def devices_of(
    places: Sequence[Place],
    take: Callable[[bytes], None],
    opened: Callable[[], None],
    frame: Callable[[can.Message], None],
    report: Callable[[str], None],
) -> list[Device]:
    """The devices at some places."""
    made: dict[str, Callable[[Place], Device]] = {
        DeviceKind.RECEIVER: lambda place: Receiver(place, take, opened),
        DeviceKind.CAN: lambda place: CanData(place, frame),
        DeviceKind.WEATHER: lambda place: WeatherStation(place, report),
    }
    return [made[place.kind](place) for place in places if place.kind in made]
