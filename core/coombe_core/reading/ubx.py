"""UBX binary: NAV-PVT messages, with the receiver's own word on the accuracy of its speed."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, BinaryIO

import numpy as np

from coombe_core.reading.result import ReadError, Reading, Rejection, Rejections, assemble

FORMAT = "ubx"
NAV_PVT = b"\xb5\x62\x01\x07"
MILLI = 1e-3  # millimetres, and millimetres a second
LEAST_FIX_TYPE = 2  # 2D


def recognises(head: bytes) -> bool:
    """Whether a NAV-PVT message starts anywhere in the head."""
    return NAV_PVT in head


def read(stream: BinaryIO) -> Reading:
    """Fixes of a UBX log; a rejection's line is the number of the message. Raises ReadError where no fix is left."""
    from pyubx2 import ERR_IGNORE, UBX_PROTOCOL, UBXReader

    rows: list[tuple[float, ...]] = []
    numbers: list[int] = []
    rejections = Rejections()
    reader = UBXReader(stream, protfilter=UBX_PROTOCOL, quitonerror=ERR_IGNORE)
    for number, message in enumerate(_messages(reader), 1):
        if message.identity != "NAV-PVT":
            continue
        try:
            rows.append(_fix(message))
            numbers.append(number)
        except (AttributeError, TypeError):
            rejections.append(Rejection(number, "NAV-PVT message of an unknown length"))
        except ValueError as error:
            rejections.append(Rejection(number, str(error)))
    table = np.array(rows, dtype=np.float64).reshape(-1, len(COLUMNS) + 1)
    columns = dict(zip(COLUMNS, table[:, 1:].T, strict=True))
    return assemble(table[:, 0], np.array(numbers, dtype=np.int64), columns, rejections, FORMAT)


def _messages(reader: Any) -> Any:
    """The parsed messages; what is damaged is passed over, whatever it makes the library raise."""
    while True:
        try:
            raw, message = reader.read()
        except Exception as error:
            if isinstance(error, MemoryError):
                raise ReadError("the log is too large to read") from None
            continue
        if raw is None:
            return
        if message is not None:
            yield message


COLUMNS = (
    *("speed_mps", "latitude_deg", "longitude_deg", "course_deg", "altitude_m", "satellites", "climb_mps"),
    *("speed_accuracy_mps", "fix_quality"),
)


def _fix(message: Any) -> tuple[float, ...]:
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
