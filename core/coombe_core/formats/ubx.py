"""UBX binary: NAV-PVT messages, with the receiver's own word on the accuracy of its speed."""

from __future__ import annotations

import math
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any, BinaryIO

import numpy as np

from coombe_core.formats.reading import ReadError, Reading, Rejection, Rejections, assemble
from coombe_core.trace import Trace

FORMAT = "ubx"
NAV_PVT = b"\xb5\x62\x01\x07"
SYNC = b"\xb5\x62"
FRAME_BYTES = 8  # of a message without payload
LONGEST = 8192
BLOCK_BYTES = 65_536
MILLI = 1e-3  # millimeters, and millimeters a second
LEAST_FIX_TYPE = 2  # 2D
UNSTATED_ACCURACY_MPS = 0.05  # written of a speed whose accuracy the trace does not state


def recognizes(head: bytes) -> bool:
    """Whether a NAV-PVT message starts anywhere in the head."""
    return NAV_PVT in head


def read(stream: BinaryIO) -> Reading:
    """Fixes of a UBX log; a rejection's line is the number of the message. Raises ReadError where no fix is left."""
    rows: list[tuple[float, ...]] = []
    numbers: list[int] = []
    rejections = Rejections()
    frames = Frames()
    messages = (message for block in iter(lambda: stream.read(BLOCK_BYTES), b"") for message in frames.feed(block))
    for number, message in enumerate(messages, 1):
        if message is None:
            rejections.append(Rejection(number, "damaged message"))
            continue
        if message.identity != "NAV-PVT":
            continue
        try:
            rows.append(fix_of(message))
            numbers.append(number)
        except (AttributeError, TypeError):
            rejections.append(Rejection(number, "NAV-PVT message of an unknown length"))
        except ValueError as error:
            rejections.append(Rejection(number, str(error)))
    table = np.array(rows, dtype=np.float64).reshape(-1, len(COLUMNS) + 1)
    columns = dict(zip(COLUMNS, table[:, 1:].T, strict=True))
    return assemble(table[:, 0], np.array(numbers, dtype=np.int64), columns, rejections, FORMAT)


def write(trace: Trace) -> bytes:
    """NAV-PVT messages: speeds and heights in millimeters, places in units of 1e-7 degrees."""
    from pyubx2 import GET, UBXMessage

    messages = []
    for row, elapsed_s in enumerate(trace.elapsed_s.tolist()):
        moment = trace.utc_at(elapsed_s)
        known = {name: getattr(trace, name)[row] for name in ("climb_mps", "speed_accuracy_mps", "satellites")}
        climb, accuracy, satellites = (0.0 if math.isnan(value) else float(value) for value in known.values())
        message = UBXMessage(
            "NAV",
            "NAV-PVT",
            GET,
            **{"year": moment.year, "month": moment.month, "day": moment.day, "hour": moment.hour},
            **{"min": moment.minute, "second": moment.second, "nano": moment.microsecond * 1000},
            **{"validDate": 1, "validTime": 1, "fixType": 3, "gnssFixOk": 1, "carrSoln": 2, "numSV": int(satellites)},
            **{"lat": float(trace.latitude_deg[row]), "lon": float(trace.longitude_deg[row])},
            hMSL=round(trace.altitude_m[row] * 1000),
            gSpeed=round(trace.speed_mps[row] * 1000),
            headMot=float(trace.course_deg[row]),
            velD=round(-climb * 1000),
            sAcc=round((accuracy or UNSTATED_ACCURACY_MPS) * 1000),
        )
        messages.append(message.serialize())
    return b"".join(messages)


class Frames:
    """Cuts bytes that come in pieces of any length into messages; what is between them is passed over."""

    def __init__(self) -> None:
        self._rest = b""

    def feed(self, data: bytes) -> Iterator[Any]:
        """Take the next bytes and yield the parsed messages that they end, None for a damaged one.

        A damaged message is none: the next may begin within it.
        """
        from pyubx2 import UBXReader

        self._rest += data
        while frame := self._next():
            try:
                message = UBXReader.parse(frame)
            except Exception as error:  # the library raises many kinds for what is damaged
                if isinstance(error, MemoryError):
                    raise ReadError("the log is too large to read") from None
                self._rest = frame[len(SYNC) :] + self._rest
                message = None
            yield message

    def _next(self) -> bytes | None:
        """The next whole message by its stated length, unparsed."""
        while True:
            begun = self._rest.find(SYNC)
            if begun < 0:
                self._rest = self._rest[-1:]
                return None
            self._rest = self._rest[begun:]
            size = FRAME_BYTES + int.from_bytes(self._rest[4:6], "little")
            if size <= LONGEST:
                break
            self._rest = self._rest[len(SYNC) :]
        if len(self._rest) < max(size, FRAME_BYTES):
            return None
        frame, self._rest = self._rest[:size], self._rest[size:]
        return frame


COLUMNS = (
    *("speed_mps", "latitude_deg", "longitude_deg", "course_deg", "altitude_m", "satellites", "climb_mps"),
    *("speed_accuracy_mps", "fix_quality"),
)


def fix_of(message: Any) -> tuple[float, ...]:
    """UTC seconds and the columns of one message. Raises ValueError with the reason where it holds no fix."""
    if message.fixType < LEAST_FIX_TYPE or not message.gnssFixOk:
        raise ValueError("no fix yet (NAV-PVT says that its fix is not valid)")
    try:
        second = datetime(message.year, message.month, message.day, message.hour, message.min, 0, tzinfo=UTC)
    except ValueError:
        raise ValueError("NAV-PVT message without a date") from None
    quality = {0: 2.0 if message.diffSoln else 1.0, 1: 5.0, 2: 4.0}.get(message.carrSoln, 1.0)
    return (
        second.timestamp() + message.second + message.nano * 1e-9,
        message.gSpeed * MILLI,
        float(message.lat),
        float(message.lon),
        float(message.headMot),
        message.hMSL * MILLI,
        float(message.numSV),
        -message.velD * MILLI,
        message.sAcc * MILLI,
        quality,
    )
