"""NMEA 0183 of any talker: RMC for time, place and Doppler speed, or GGA or GNS with VTG; dates from RMC or ZDA.

GGA and GNS give altitude and quality, GSA the geometry where they lack it. Binary between sentences is passed over.
The log is taken in pieces of some megabytes that end where an epoch does. Each becomes columns of fixes on its own
(`epochs`), several at a time, so that no more than the fixes is ever kept of a long log: in arrays that grow in place.
"""

from __future__ import annotations

import os
import re
from array import array
from collections import deque
from collections.abc import Iterator
from typing import BinaryIO

import numpy as np

from coombe_core.formats.nmea.epochs import Epochs, Piece, epochs_of
from coombe_core.formats.nmea.fields import Floats
from coombe_core.formats.nmea.writing import sentence, write
from coombe_core.formats.reading import ReadError, Reading, Rejections, assemble

__all__ = ["FORMAT", "read", "recognizes", "sentence", "write"]

FORMAT = "nmea"
HEAD = re.compile(rb"\$[A-Z]{2}(RMC|GGA|VTG|GSA|GSV|GNS|ZDA|GLL|TXT),")
CLOCKED = re.compile(rb"\$[A-Z]{2}(?:RMC|GGA|GNS|ZDA),(\d+(?:\.\d+)?),")
PIECE_BYTES = 2 * 1024**2
LONGEST = 1024  # a sentence longer than this is none; the standard allows 82 characters
EPOCH_BYTES = 8192
AHEAD = 3  # pieces that wait or are worked on at a time
DAY_S = 86_400.0


def recognizes(head: bytes) -> bool:
    """Whether a sentence of a satellite receiver starts anywhere in the head."""
    return HEAD.search(head) is not None


def read(stream: BinaryIO) -> Reading:
    """Fixes of an NMEA log. Raises ReadError where no sentence with time and speed is left."""
    rejections, has_places = Rejections(), False
    lines, joined = array("q"), dict[str, "array[float]"]()
    for epochs in _taken(stream):
        rejections.join(epochs.rejections)
        has_places |= epochs.has_places
        lines.frombytes(epochs.lines.tobytes())
        for name, values in epochs.columns.items():
            joined.setdefault(name, array("d")).frombytes(values.tobytes())
    if not lines:
        if has_places and not rejections:
            raise ReadError("the log has positions but no speed: switch the RMC or VTG sentence on in the receiver")
        return assemble(np.zeros(0), np.zeros(0, dtype=np.int64), {}, rejections, FORMAT)
    columns = {name: np.frombuffer(values) for name, values in joined.items()}
    joined.clear()
    shape, hdop = _carried(columns.pop("shape_hdop")), columns["hdop"]
    columns["hdop"] = np.where(np.isnan(hdop), shape, hdop)
    day_s = columns.pop("day_s")
    midnight_s, date_known = _midnights(day_s, columns.pop("date_s"), _carried(columns.pop("carried_date_s")))
    return assemble(midnight_s + day_s, np.frombuffer(lines, np.int64), columns, rejections, FORMAT, date_known)


def _taken(stream: BinaryIO) -> Iterator[Epochs]:
    """The fixes of every piece, in order."""
    pieces = _pieces(stream)
    first, second = next(pieces, None), next(pieces, None)
    if first is None or second is None:  # the usual log is short: threads would only cost time
        yield from (epochs_of(piece) for piece in (first, second) if piece)
        return
    from concurrent.futures import Future, ThreadPoolExecutor

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        waiting: deque[Future[Epochs]] = deque(pool.submit(epochs_of, piece) for piece in (first, second))
        for piece in pieces:
            if len(waiting) > AHEAD:
                yield waiting.popleft().result()
            waiting.append(pool.submit(epochs_of, piece))
        yield from (each.result() for each in waiting)


def _pieces(stream: BinaryIO) -> Iterator[Piece]:
    """The log in pieces that end where an epoch does."""
    lines, rest = 0, b""
    while len(read := stream.read(PIECE_BYTES)) == PIECE_BYTES:
        data = rest + read
        end = _end_of_epoch(data)
        if end:
            yield Piece(data[:end], lines)
        lines, rest = lines + data.count(b"\n", 0, end), data[end:]
    if rest or read:
        yield Piece(rest + read, lines)


def _end_of_epoch(data: bytes) -> int:
    """Where the last epoch begins; where that is not known, the end of the last whole line or sentence."""
    end = data.rfind(b"\n") + 1
    if end == 0:
        return max(len(data) - LONGEST, 0)
    stated = list(CLOCKED.finditer(data, max(end - EPOCH_BYTES, 0), end))
    for earlier, later in zip(reversed(stated[:-1]), reversed(stated), strict=False):
        if earlier[1] != later[1]:
            return later.start()
    return end if len(data) > EPOCH_BYTES else 0


def _carried(values: Floats) -> Floats:
    """The values with every hole filled by the last one before it, or by the first one of all."""
    places = np.flatnonzero(np.isfinite(values))
    if places.size in (0, values.size):
        return values
    last = np.searchsorted(places, np.arange(values.size), side="right") - 1
    return values[places[np.maximum(last, 0)]]


def _midnights(day_s: Floats, stated_s: Floats, carried_s: Floats) -> tuple[Floats, bool]:
    """Seconds since 1970 of each fix's midnight. Where the date is missing, days are counted by the roll-overs."""
    dates_s = np.where(np.isnan(stated_s), carried_s, stated_s)
    if np.isfinite(dates_s).all():
        return dates_s, True
    first = dates_s[np.isfinite(dates_s)]
    rolled = np.concatenate([[0.0], np.cumsum(np.diff(day_s) < -DAY_S / 2)])
    return (first[0] if first.size else 0.0) + rolled * DAY_S, bool(first.size)
