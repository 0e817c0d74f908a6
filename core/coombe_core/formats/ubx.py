"""UBX binary: NAV-PVT messages, with the receiver's own word on the accuracy of its speed."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import accumulate
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.reading import Reading, Rejection, Rejections, assemble
from coombe_core.trace import Trace

FORMAT = "ubx"
Floats = NDArray[np.float64]
NAV_PVT = b"\xb5\x62\x01\x07"
SYNC = b"\xb5\x62"
FRAME_BYTES = 8  # of a message without payload
LONGEST = 8192
BLOCK_BYTES = 65_536
MILLI = 1e-3  # millimeters, and millimeters a second
LEAST_FIX_TYPE = 2  # 2D
UNSTATED_ACCURACY_MPS = 0.05  # written of a speed whose accuracy the trace does not state
NOT_VALID = "no fix yet (NAV-PVT says that its fix is not valid)"
NO_DATE = "NAV-PVT message without a date"
TOO_SHORT = "NAV-PVT message of an unknown length"
# The head of a NAV-PVT frame with the fields that count, from its two sync bytes on; they stand where they do in every
# version of the message.
FIELDS = np.dtype(
    {
        "names": [
            *("year", "month", "day", "hour", "minute", "second", "nano", "fix_type", "flags", "satellites"),
            *("longitude", "latitude", "altitude_mm", "down_mmps", "speed_mmps", "course", "accuracy_mmps"),
        ],
        "formats": [*("<u2", *["u1"] * 5, "<i4", "u1", "u1", "u1"), *["<i4"] * 6, "<u4"],
        "offsets": [6 + offset for offset in (4, 6, 7, 8, 9, 10, 16, 20, 21, 23, 24, 28, 36, 56, 60, 64, 68)],
        "itemsize": 6 + 72,
    }
)
DEGREES, COURSE_DEGREES = 1e-7, 1e-5
FIX_OK, DIFFERENTIAL = 0x01, 0x02
CARRIER_SHIFT = 6
# By the state of the carrier: none, floating and fixed ambiguities.
CARRIER_QUALITY = np.array([1.0, 5.0, 4.0, 1.0])


def recognizes(head: bytes) -> bool:
    """Whether a NAV-PVT message starts anywhere in the head."""
    return NAV_PVT in head


def read(stream: BinaryIO) -> Reading:
    """Fixes of a UBX log; a rejection's line is the number of the message. Raises ReadError where no fix is left."""
    rejections = Rejections()
    cutter = Frames()
    heads: list[bytes] = []
    numbers: list[int] = []
    frames = (frame for block in iter(lambda: stream.read(BLOCK_BYTES), b"") for frame in cutter.feed(block))
    for number, frame in enumerate(frames, 1):
        if frame is None:
            rejections.append(Rejection(number, "damaged message"))
        elif frame.startswith(NAV_PVT):
            heads.append(frame)
            numbers.append(number)
    fixes = decoded(heads)
    usable, lines = fixes.usable, np.array(numbers, dtype=np.int64)
    for reason in (NOT_VALID, NO_DATE, TOO_SHORT):
        rejections.all_of(lines[fixes.refused == reason], reason)
    columns = {name: column[usable] for name, column in fixes.columns.items()}
    return assemble(fixes.utc_s[usable], lines[usable], columns, rejections, FORMAT)


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

    def feed(self, data: bytes) -> Iterator[bytes | None]:
        """Take the next bytes and yield the messages that they end, from sync to checksum, None for a damaged one.

        A damaged message is none: the next may begin within it.
        """
        self._rest += data
        at = 0
        while (begun := self._rest.find(SYNC, at)) >= 0:
            size = FRAME_BYTES + int.from_bytes(self._rest[begun + 4 : begun + 6], "little")
            if size > LONGEST:
                at = begun + len(SYNC)
                continue
            frame = self._rest[begun : begun + size]
            at = begun
            if len(frame) < size:
                break
            whole = _checks(frame)
            at += size if whole else len(SYNC)
            yield frame if whole else None
        else:
            at = max(at, len(self._rest) - 1)  # its last byte may be the first of a message
        self._rest = self._rest[at:]


def _checks(frame: bytes) -> bool:
    """Whether a frame's two last bytes are its checksum (Fletcher's, of class, identity, length and payload)."""
    covered = frame[len(SYNC) : -2]
    return frame[-2] == sum(covered) & 0xFF and frame[-1] == sum(accumulate(covered)) & 0xFF


@dataclass(frozen=True, eq=False)
class Fixes:
    """What NAV-PVT messages say (n each): UTC seconds, columns of a trace, and why one is refused, else empty."""

    utc_s: Floats
    columns: dict[str, Floats]
    refused: NDArray[np.str_]

    @property
    def usable(self) -> NDArray[np.bool_]:
        """Those that are not refused."""
        return np.asarray(self.refused == "")


def decoded(frames: Sequence[bytes]) -> Fixes:
    """Decode whole NAV-PVT frames; one is refused with a reason where it holds no fix."""
    heads = b"".join(frame[: FIELDS.itemsize].ljust(FIELDS.itemsize, b"\0") for frame in frames)
    stated = np.frombuffer(heads, FIELDS)
    short = np.array([len(frame) < FIELDS.itemsize + 2 for frame in frames], dtype=np.bool_)
    minutes, dated = _minutes(stated)
    valid = (stated["fix_type"] >= LEAST_FIX_TYPE) & (stated["flags"] & FIX_OK > 0)
    carrier = stated["flags"] >> CARRIER_SHIFT
    differential = np.where(stated["flags"] & DIFFERENTIAL > 0, 2.0, 1.0)
    columns = {
        "speed_mps": stated["speed_mmps"] * MILLI,
        "latitude_deg": stated["latitude"] * DEGREES,
        "longitude_deg": stated["longitude"] * DEGREES,
        "course_deg": stated["course"] * COURSE_DEGREES,
        "altitude_m": stated["altitude_mm"] * MILLI,
        "satellites": stated["satellites"].astype(np.float64),
        "climb_mps": stated["down_mmps"] * -MILLI,
        "speed_accuracy_mps": stated["accuracy_mmps"] * MILLI,
        "fix_quality": np.where(carrier == 0, differential, CARRIER_QUALITY[carrier]),
    }
    utc_s = minutes * 60.0 + stated["second"] + stated["nano"] * 1e-9
    return Fixes(utc_s, columns, np.select([short, ~valid, ~dated], [TOO_SHORT, NOT_VALID, NO_DATE], ""))


def _minutes(stated: NDArray[np.void]) -> tuple[Floats, NDArray[np.bool_]]:
    """Whole minutes since 1970 UTC (n), and whether the date is one (n)."""
    months = (stated["year"].astype(np.int64) - 1970) * 12 + stated["month"] - 1
    first, after = (
        month.astype("datetime64[D]").astype(np.int64)
        for month in (months.astype("datetime64[M]"), (months + 1).astype("datetime64[M]"))
    )
    dated = (stated["year"] > 0) & (stated["month"] >= 1) & (stated["month"] <= 12) & (stated["day"] >= 1)
    dated &= (stated["day"] <= after - first) & (stated["hour"] < 24) & (stated["minute"] < 60)
    days = first + stated["day"] - 1
    return (days * 1440 + stated["hour"].astype(np.int64) * 60 + stated["minute"]).astype(np.float64), dated
