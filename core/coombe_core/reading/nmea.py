"""NMEA 0183 of any talker: RMC for time, place and Doppler speed, or GGA or GNS with VTG; dates from RMC or ZDA.

GGA and GNS give altitude and quality, GSA the geometry where they lack it. Binary between sentences is passed over.
The log is taken in pieces of some megabytes, and a piece as columns of octets: a loop over sentences is only left for
the few that are not plain.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from coombe_core.reading.octets import Floats, Octets, Truths
from coombe_core.reading.result import ReadError, Reading, Rejections, assemble
from coombe_core.reading.sentences import Sentences, find_sentences
from coombe_core.units import KMH_MPS, KNOT_MPS

FORMAT = "nmea"
HEAD = re.compile(rb"\$[A-Z]{2}(RMC|GGA|VTG|GSA|GSV|GNS|ZDA|GLL|TXT),")
PIECE_BYTES = 1024**2
LONGEST = 1024  # a sentence longer than this is none; the standard allows 82 characters
DAY_S = 86_400.0
FASTEST_MPS = 200.0
QUALITY_OF_MODE = {"N": 0.0, "A": 1.0, "D": 2.0, "P": 3.0, "R": 4.0, "F": 5.0, "E": 6.0, "M": 7.0, "S": 8.0}


def recognises(head: bytes) -> bool:
    """Whether a sentence of a satellite receiver starts anywhere in the head."""
    return HEAD.search(head) is not None


def read(stream: BinaryIO) -> Reading:
    """Fixes of an NMEA log. Raises ReadError where no sentence with time and speed is left."""
    rejections = Rejections()
    kinds: dict[str, list[Table]] = {name: [] for name in FIELDS}
    offset, lines = 0, 0
    rest = b""
    while piece := stream.read(PIECE_BYTES):
        whole, rest = _split(rest + piece)
        _take(whole, offset, lines, kinds, rejections)
        offset, lines = offset + len(whole), lines + whole.count(b"\n")
    _take(rest, offset, lines, kinds, rejections)
    return _joined({name: Table.joined(tables) for name, tables in kinds.items()}, rejections)


def _split(data: bytes) -> tuple[bytes, bytes]:
    """Whole lines, and what follows them; where there is no line end, all but what a sentence may still need."""
    end = data.rfind(b"\n") + 1
    if end == 0 and len(data) > PIECE_BYTES:
        end = len(data) - LONGEST
    return data[:end], data[end:]


def _take(data: bytes, offset: int, lines_before: int, kinds: dict[str, list[Table]], rejections: Rejections) -> None:
    """Add the sentences of one piece to the tables of their kinds."""
    octets = np.frombuffer(data, dtype=np.uint8)
    if not octets.size:
        return
    sentences = find_sentences(octets, lines_before, rejections)
    codes = np.stack([sentences.octets[sentences.starts + place] for place in (2, 3, 4)], axis=1)
    for name, wanted in FIELDS.items():
        chosen = sentences.only((codes == np.frombuffer(name.encode(), np.uint8)).all(axis=1))
        if not chosen.starts.size:
            continue
        if kinds["RMC"]:  # places come from there; those of the others are never asked for
            wanted = {column: number for column, number in wanted.items() if name == "RMC" or column not in PLACES}
        kinds[name].append(_table(name, wanted, chosen, offset, rejections))


@dataclass(frozen=True)
class Table:
    """Sentences of one kind in columns: where in the log each stands, its line, and its fields by name."""

    places: NDArray[np.int64]
    lines: NDArray[np.int64]
    columns: dict[str, Floats] = field(default_factory=dict)

    @staticmethod
    def joined(tables: list[Table]) -> Table:
        """One table of all pieces; each piece's columns are let go as they are joined."""
        if not tables:
            empty = np.zeros(0, dtype=np.int64)
            return Table(empty, empty)
        names = [name for name in tables[0].columns if all(name in table.columns for table in tables)]
        columns = {name: np.concatenate([table.columns.pop(name) for table in tables]) for name in names}
        places, lines = (np.concatenate([getattr(t, part) for t in tables]) for part in ("places", "lines"))
        return Table(places, lines, columns)

    def __len__(self) -> int:
        return int(self.places.size)

    def of(self, name: str, index: NDArray[np.intp], found: Truths) -> Floats:
        """A column at some rows, NaN where none was found."""
        if not len(self):
            return np.full(index.size, np.nan)
        return np.where(found, self.columns[name][np.clip(index, 0, len(self) - 1)], np.nan)


# Which field of a sentence is which number; `place` fields are ddmm.mmm with the hemisphere in the next field.
FIELDS: dict[str, dict[str, int]] = {
    "RMC": {"clock": 1, "latitude": 3, "longitude": 5, "knots": 7, "course": 8, "date": 9},
    "GGA": {"clock": 1, "latitude": 2, "longitude": 4, "quality": 6, "satellites": 7, "hdop": 8, "altitude": 9},
    "GNS": {"clock": 1, "latitude": 2, "longitude": 4, "satellites": 7, "hdop": 8, "altitude": 9},
    "VTG": {"course": 1, "knots": 5, "kmh": 7},
    "GSA": {"hdop": 16},
    "ZDA": {"clock": 1, "day": 2, "month": 3, "year": 4},
}
PLACES = ("latitude", "longitude")
NO_NUMBER = "{} sentence with a field that is no number"


def _table(name: str, wanted: dict[str, int], sentences: Sentences, offset: int, rejections: Rejections) -> Table:
    """The sentences of one kind as columns; those with a field that is no number go to the rejections."""
    columns: dict[str, Floats] = {}
    plain = np.ones(sentences.starts.size, dtype=np.bool_)
    for column, number in wanted.items():
        columns[column], readable = sentences.numbers(number)
        plain &= readable
        if column in PLACES:
            south_or_west = np.isin(sentences.letters(number + 1), (ord("S"), ord("W")))
            columns[column] = _degrees(columns[column]) * np.where(south_or_west, -1.0, 1.0)
    if name == "RMC":
        status, mode = sentences.letters(2), sentences.letters(12)
        columns["valid"] = (status == ord("A")).astype(np.float64)
        columns["quality"] = _quality(mode)
    if name == "GNS":
        columns["quality"] = _quality(sentences.letters(6))
    rejections.all_of(sentences.lines[~plain], NO_NUMBER.format(name))
    kept = {column: values[plain] for column, values in columns.items()}
    return Table(sentences.starts[plain] + offset, sentences.lines[plain], kept)


def _degrees(values: Floats) -> Floats:
    """Degrees of ddmm.mmm or dddmm.mmm."""
    whole = np.floor(values / 100.0)
    return np.asarray(whole + (values - 100.0 * whole) / 60.0)


def _quality(letters: Octets) -> Floats:
    """The fix quality of a mode letter, in the numbers of GGA."""
    table = np.full(256, np.nan)
    table[[ord(letter) for letter in QUALITY_OF_MODE]] = list(QUALITY_OF_MODE.values())
    return np.asarray(table[letters])


def _seconds(clock: Floats) -> Floats:
    """Seconds of the day of hhmmss.sss."""
    hours, minutes = np.floor(clock / 10_000.0), np.floor(clock / 100.0) % 100.0
    return np.asarray(hours * 3600.0 + minutes * 60.0 + np.round(clock - np.floor(clock / 100.0) * 100.0, 6))


def _joined(tables: dict[str, Table], rejections: Rejections) -> Reading:
    rmc, vtg = tables["RMC"], tables["VTG"]
    heights = tables["GGA"] if len(tables["GGA"]) else tables["GNS"]
    if len(rmc):
        fixes, speed, course = rmc, rmc.columns["knots"] * KNOT_MPS, rmc.columns["course"]
    elif len(heights) and len(vtg):
        fixes, (speed, course) = heights, _following(heights, vtg)
    elif len(heights) and not rejections:
        raise ReadError("the log has positions but no speed: switch the RMC or VTG sentence on in the receiver")
    else:
        return assemble(np.zeros(0), np.zeros(0, dtype=np.int64), {}, rejections, FORMAT)
    clock = fixes.columns["clock"]
    day_s = _seconds(clock)
    usable = _usable(fixes, day_s, speed, rejections)
    index, found = _same_clock(fixes, heights)
    shapes = _nearest(fixes, tables["GSA"])
    hdop, quality = heights.of("hdop", index, found), heights.of("quality", index, found)
    midnight_s, date_known = _midnights(day_s[usable], _dates(fixes, tables["ZDA"])[usable])
    columns = {
        "latitude_deg": fixes.columns["latitude"],
        "longitude_deg": fixes.columns["longitude"],
        "speed_mps": speed,
        "course_deg": course,
        "altitude_m": heights.of("altitude", index, found),
        "satellites": heights.of("satellites", index, found),
        "hdop": np.where(np.isnan(hdop), tables["GSA"].of("hdop", *shapes), hdop),
        "fix_quality": np.where(np.isnan(quality), fixes.columns["quality"], quality),
    }
    kept = {name: column[usable] for name, column in columns.items()}
    return assemble(midnight_s + day_s[usable], fixes.lines[usable], kept, rejections, FORMAT, date_known)


def _usable(fixes: Table, day_s: Floats, speed: Floats, rejections: Rejections) -> Truths:
    """Fixes that hold; what is wrong with the others goes to the rejections."""
    no_fix = fixes.columns.get("valid", fixes.columns["quality"]) == 0
    lacking = np.isnan(day_s) | np.isnan(speed)
    impossible = (day_s >= DAY_S + 1) | (speed < 0) | (speed >= FASTEST_MPS)
    left = np.ones(len(fixes), dtype=np.bool_)
    reasons = (
        (no_fix, "no fix yet (the receiver's status is not valid)"),
        (lacking, "fix without time or speed"),
        (impossible, "fix with an impossible time or speed"),
    )
    for wrong, reason in reasons:
        rejections.all_of(fixes.lines[wrong & left], reason)
        left &= ~wrong
    return left


def _following(fixes: Table, vtg: Table) -> tuple[Floats, Floats]:
    """Speed and course of the VTG sentence between each fix and the next."""
    index = np.searchsorted(vtg.places, fixes.places)
    next_place = np.concatenate([fixes.places[1:], [np.iinfo(np.int64).max]])
    found = (index < len(vtg)) & (vtg.places[np.minimum(index, len(vtg) - 1)] < next_place)
    knots, kmh = vtg.of("knots", index, found), vtg.of("kmh", index, found)
    return np.where(np.isnan(kmh), knots * KNOT_MPS, kmh * KMH_MPS), vtg.of("course", index, found)


def _same_clock(fixes: Table, others: Table) -> tuple[NDArray[np.intp], Truths]:
    """For each fix the sentence before or after it that states the same time of day."""
    after = np.searchsorted(others.places, fixes.places)
    if others is fixes or not len(others):
        return after, np.full(len(fixes), len(others) > 0)
    clock, theirs = fixes.columns["clock"], others.columns["clock"]
    last = len(others) - 1
    before = np.clip(after - 1, 0, last)
    is_before = theirs[before] == clock
    index = np.where(is_before, before, np.minimum(after, last))
    return index, theirs[index] == clock


def _nearest(fixes: Table, others: Table) -> tuple[NDArray[np.intp], Truths]:
    """For each fix the last sentence before it, or the first one of all."""
    index = np.maximum(np.searchsorted(others.places, fixes.places) - 1, 0)
    return index, np.full(len(fixes), len(others) > 0)


def _dates(fixes: Table, zda: Table) -> Floats:
    """Seconds since 1970 of each fix's date, NaN where none is stated: RMC's own, else the last ZDA's."""
    if "date" in fixes.columns:
        stated = fixes.columns["date"]
        of_date: Callable[[float], float] = _date_s
    else:
        days = zda.columns
        numbers = days["year"] * 10_000 + days["month"] * 100 + days["day"] if days else np.zeros(0)
        stated = Table(zda.places, zda.lines, {"date": numbers}).of("date", *_nearest(fixes, zda))
        of_date = _iso_date_s
    changes = np.flatnonzero(np.diff(np.nan_to_num(stated, nan=-1.0), prepend=-2.0))
    lengths = np.diff(np.append(changes, stated.size))
    dates = [of_date(date) if date == date else np.nan for date in stated[changes].tolist()]
    return np.repeat(np.array(dates, dtype=np.float64), lengths)


def _midnights(day_s: Floats, dates_s: Floats) -> tuple[Floats, bool]:
    """Seconds since 1970 of each fix's midnight. Where the date is missing, days are counted by the roll-overs."""
    if dates_s.size and np.isfinite(dates_s).all():
        return dates_s, True
    first = dates_s[np.isfinite(dates_s)]
    rolled = np.concatenate([[0.0], np.cumsum(np.diff(day_s) < -DAY_S / 2)]) if day_s.size else day_s
    return (first[0] if first.size else 0.0) + rolled * DAY_S, bool(first.size)


def _date_s(ddmmyy: float) -> float:
    """Seconds since 1970 of a ddmmyy date, NaN where there is none; years 80-99 are of the last century."""
    day, month, year = int(ddmmyy // 10_000), int(ddmmyy // 100 % 100), int(ddmmyy % 100)
    return _midnight_s(year + (1900 if year >= 80 else 2000), month, day)


def _iso_date_s(yyyymmdd: float) -> float:
    return _midnight_s(int(yyyymmdd // 10_000), int(yyyymmdd // 100 % 100), int(yyyymmdd % 100))


def _midnight_s(year: int, month: int, day: int) -> float:
    try:
        return datetime(year, month, day, tzinfo=UTC).timestamp()
    except ValueError:
        return float("nan")
