"""NMEA 0183: RMC for time, position and Doppler speed, GGA for altitude and quality, of any talker.

Binary between sentences is passed over. Sentences are joined by their time of day; a log's date comes from RMC.
"""

from __future__ import annotations

import re
from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from coombe_core.reading.result import ReadError, Reading, Rejection, assemble
from coombe_core.units import KNOT_MPS

FORMAT = "nmea"
SENTENCE = re.compile(rb"\$([A-Z]{2}[A-Z]{3},[^$*\r\n]*)\*([0-9A-Fa-f]{2})")
HEAD = re.compile(rb"\$[A-Z]{2}(RMC|GGA|VTG|GSA|GSV|GNS|ZDA|GLL|TXT),")
DAY_S = 86_400.0
HALF_DAY_S = DAY_S / 2
Floats = NDArray[np.float64]


def recognises(head: bytes) -> bool:
    """Whether a sentence of a satellite receiver starts anywhere in the head."""
    return HEAD.search(head) is not None


def read(data: bytes) -> Reading:
    """Fixes of an NMEA log. Raises ReadError where no RMC sentence with a fix is left."""
    rejections: list[Rejection] = []
    line_ends = np.flatnonzero(np.frombuffer(data, np.uint8) == 0x0A)
    fixes: list[tuple[float, ...]] = []
    dates: list[bytes] = []
    lines: list[int] = []
    quality: dict[bytes, tuple[float, float, float]] = {}
    for body, line in _sentences(data, line_ends, rejections):
        kind = body[2:5]
        if kind == b"RMC":
            try:
                fixes.append(_rmc(body.split(b",")))
            except ValueError as error:
                rejections.append(Rejection(line, str(error)))
                continue
            dates.append(body.split(b",")[9])
            lines.append(line)
        elif kind == b"GGA":
            parts = body.split(b",")
            try:
                quality[parts[1]] = _gga(parts)
            except (ValueError, IndexError):
                rejections.append(Rejection(line, "GGA sentence with a field that is no number"))
    return _joined(fixes, dates, lines, quality, rejections)


def _sentences(data: bytes, line_ends: NDArray[np.intp], rejections: list[Rejection]) -> list[tuple[bytes, int]]:
    """Every sentence whose checksum holds, with its line; the others go to the rejections."""
    matches = list(SENTENCE.finditer(data))
    if not matches:
        return []
    starts = np.array([match.start(1) for match in matches])
    ends = np.array([match.end(1) for match in matches])
    stated = np.array([int(match.group(2), 16) for match in matches])
    octets = np.frombuffer(data, np.uint8)
    pairs = np.column_stack([starts, ends]).ravel()
    computed = np.bitwise_xor.reduceat(octets, pairs)[::2]
    lines = np.searchsorted(line_ends, starts) + 1
    holds = computed == stated
    rejections.extend(Rejection(int(line), "checksum does not match") for line in lines[~holds])
    rejections.extend(_broken_lines(data, line_ends, lines))
    return [(match.group(1), int(line)) for match, line, ok in zip(matches, lines, holds, strict=True) if ok]


def _broken_lines(data: bytes, line_ends: NDArray[np.intp], lines: NDArray[np.intp]) -> list[Rejection]:
    """Lines that begin like a sentence and are none: cut short, or damaged."""
    with_sentence = set(lines.tolist())
    begun = np.searchsorted(line_ends, [m.start() for m in re.finditer(rb"(?m)^\$[A-Z]{2}", data)]) + 1
    return [
        Rejection(int(line), "sentence is cut short or damaged") for line in begun if int(line) not in with_sentence
    ]


def _rmc(parts: list[bytes]) -> tuple[float, ...]:
    """Seconds of the day, latitude, longitude, speed and course of an RMC sentence with a valid fix."""
    if len(parts) < 10:
        raise ValueError("RMC sentence has too few fields")
    if parts[2] != b"A":
        raise ValueError("no fix yet (RMC status is not A)")
    if not parts[1] or not parts[7]:
        raise ValueError("RMC sentence without time or speed")
    try:
        clock = parts[1]
        seconds = int(clock[0:2]) * 3600 + int(clock[2:4]) * 60 + float(clock[4:])
        speed = float(parts[7]) * KNOT_MPS
        course = float(parts[8]) if parts[8] else np.nan
        place = _degrees(parts[3], parts[4]), _degrees(parts[5], parts[6])
    except ValueError:
        raise ValueError("RMC sentence with a field that is no number") from None
    if not (0 <= seconds < DAY_S + 1 and 0 <= speed < 200):
        raise ValueError("RMC sentence with an impossible time or speed")
    return seconds, *place, speed, course


def _degrees(value: bytes, hemisphere: bytes) -> float:
    """Degrees of ddmm.mmm or dddmm.mmm; south and west are negative."""
    if not value:
        return np.nan
    point = value.find(b".")
    whole = (point if point >= 0 else len(value)) - 2
    degrees = int(value[:whole]) + float(value[whole:]) / 60.0
    return -degrees if hemisphere in (b"S", b"W") else degrees


def _gga(parts: list[bytes]) -> tuple[float, float, float]:
    """Altitude, satellites and HDOP of a GGA sentence; NaN where a field is empty."""
    return tuple(float(parts[index]) if parts[index] else np.nan for index in (9, 7, 8))  # type: ignore[return-value]


def _joined(
    fixes: list[tuple[float, ...]],
    dates: list[bytes],
    lines: list[int],
    quality: dict[bytes, tuple[float, float, float]],
    rejections: list[Rejection],
) -> Reading:
    if not fixes and quality and not rejections:
        raise ReadError("the log has positions but no speed: switch the RMC sentence on in the receiver")
    table = np.array(fixes, dtype=np.float64).reshape(-1, 5)
    day_s = table[:, 0]
    known = {round(_day_seconds(clock), 3): values for clock, values in quality.items() if clock}
    extra = np.array([known.get(round(s, 3), (np.nan,) * 3) for s in day_s.tolist()]).reshape(-1, 3)
    midnight_s, date_known = _midnights(day_s, dates)
    columns = {
        "latitude_deg": table[:, 1],
        "longitude_deg": table[:, 2],
        "speed_mps": table[:, 3],
        "course_deg": table[:, 4],
        "altitude_m": extra[:, 0],
        "satellites": extra[:, 1],
        "hdop": extra[:, 2],
    }
    numbers = np.array(lines, dtype=np.int64)
    return assemble(midnight_s + day_s, numbers, columns, rejections, FORMAT, date_known)


def _day_seconds(clock: bytes) -> float:
    try:
        return int(clock[0:2]) * 3600 + int(clock[2:4]) * 60 + float(clock[4:])
    except ValueError:
        return -1.0


def _midnights(day_s: Floats, dates: list[bytes]) -> tuple[Floats, bool]:
    """Seconds since 1970 of each fix's midnight. Where the date is missing, days are counted by the roll-overs."""
    known = {date: _date_s(date) for date in set(dates)}
    stamps = np.array([known[date] for date in dates], dtype=np.float64)
    if stamps.size and np.isfinite(stamps).all():
        return stamps, True
    first = stamps[np.isfinite(stamps)]
    rolled = np.concatenate([[0.0], np.cumsum(np.diff(day_s) < -HALF_DAY_S)]) if day_s.size else day_s
    return (first[0] if first.size else 0.0) + rolled * DAY_S, bool(first.size)


def _date_s(date: bytes) -> float:
    """Seconds since 1970 of a ddmmyy date, NaN where there is none; years 80-99 are of the last century."""
    try:
        day, month, year = int(date[0:2]), int(date[2:4]), int(date[4:6])
        return datetime(year + (1900 if year >= 80 else 2000), month, day, tzinfo=UTC).timestamp()
    except ValueError:
        return float("nan")
