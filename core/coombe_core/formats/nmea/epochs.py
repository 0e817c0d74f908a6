"""Fixes of one piece of an NMEA log: sentences as columns of bytes, brought together by the time that they state.

A loop over sentences is nowhere: that is what makes it fast.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.nmea.fields import ByteArray, Floats, Truths
from coombe_core.formats.nmea.sentences import Sentences, find_sentences
from coombe_core.formats.reading import FASTEST_MPS, Rejections
from coombe_core.units import KMH_MPS, KNOT_MPS

DAY_S = 86_400.0
QUALITY_OF_MODE = {"N": 0.0, "A": 1.0, "D": 2.0, "P": 3.0, "R": 4.0, "F": 5.0, "E": 6.0, "M": 7.0, "S": 8.0}


@dataclass(frozen=True)
class Piece:
    """Bytes of a log and how many lines came before them."""

    data: bytes
    lines_before: int


@dataclass(frozen=True)
class Epochs:
    """The fixes of a piece: their lines (n) and columns (n each), what was rejected, and whether it has places at all.

    Beside a Trace's columns: `day_s` of the day, `date_s` that the sentence itself states, and what ZDA and GSA stated
    last, `carried_date_s` and `shape_hdop`, NaN before the first of them.
    """

    lines: NDArray[np.int64]
    columns: dict[str, Floats]
    rejections: Rejections
    has_places: bool

    def __len__(self) -> int:
        return int(self.lines.size)


def epochs_of(piece: Piece) -> Epochs:
    """The fixes of one piece."""
    rejections = Rejections()
    raw = np.frombuffer(piece.data, dtype=np.uint8)
    tables = _tables(find_sentences(raw, piece.lines_before, rejections), rejections)
    rmc, vtg = tables["RMC"], tables["VTG"]
    heights = tables["GGA"] if len(tables["GGA"]) else tables["GNS"]
    fixes = _of_rmc(rmc)
    if len(vtg) and len(heights):
        fixes = _in_order(fixes, _following(heights, vtg, rmc))
    columns = dict(fixes.columns)
    index, found = _same_clock(fixes, heights)
    for name in ("altitude", "satellites", "hdop"):
        columns[name] = heights.of(name, index, found)
    quality = heights.of("quality", index, found)
    columns["quality"] = np.where(np.isnan(quality), columns["quality"], quality)
    columns["shape_hdop"] = tables["GSA"].of("hdop", *_last_before(fixes, tables["GSA"]))
    columns["carried_date_s"] = _zda_dates(fixes, tables["ZDA"])
    columns["day_s"] = seconds_of_day(columns.pop("clock"))
    usable = _usable(fixes.lines, columns, rejections)
    kept = {COLUMN_OF.get(name, name): values[usable] for name, values in columns.items() if name != "valid"}
    return Epochs(fixes.lines[usable], kept, rejections, bool(len(heights)))


COLUMN_OF = {
    **{"latitude": "latitude_deg", "longitude": "longitude_deg", "course": "course_deg"},
    **{"altitude": "altitude_m", "quality": "fix_quality"},
}


def _tables(sentences: Sentences, rejections: Rejections) -> dict[str, Table]:
    """The sentences of every kind; the places of GGA and GNS only where they may be asked for."""
    codes = np.stack([sentences.raw[sentences.starts + place] for place in (2, 3, 4)], axis=1)
    tables: dict[str, Table] = {}
    for name, wanted in FIELDS.items():
        chosen = sentences.only((codes == np.frombuffer(name.encode(), np.uint8)).all(axis=1))
        if name in ("GGA", "GNS") and len(tables["RMC"]) and not len(tables["VTG"]):
            wanted = {column: number for column, number in wanted.items() if column not in PLACES}
        tables[name] = _table(name, wanted, chosen, rejections)
    return tables


@dataclass(frozen=True)
class Table:
    """Sentences of one kind in columns: where in the piece each stands, its line, and its fields by name."""

    places: NDArray[np.int64]
    lines: NDArray[np.int64]
    columns: dict[str, Floats] = field(default_factory=dict)

    def __len__(self) -> int:
        return int(self.places.size)

    def of(self, name: str, index: NDArray[np.intp], found: Truths) -> Floats:
        """A column at some rows, NaN where none was found."""
        if name not in self.columns or not len(self):
            return np.full(index.size, np.nan)
        return np.where(found, self.columns[name][np.clip(index, 0, len(self) - 1)], np.nan)


# Which field of a sentence is which number; `place` fields are ddmm.mmm with the hemisphere in the next field.
FIELDS: dict[str, dict[str, int]] = {
    "RMC": {"clock": 1, "latitude": 3, "longitude": 5, "knots": 7, "course": 8, "date": 9},
    "VTG": {"course": 1, "knots": 5, "kmh": 7},
    "GGA": {"clock": 1, "latitude": 2, "longitude": 4, "quality": 6, "satellites": 7, "hdop": 8, "altitude": 9},
    "GNS": {"clock": 1, "latitude": 2, "longitude": 4, "satellites": 7, "hdop": 8, "altitude": 9},
    "GSA": {"hdop": 16},
    "ZDA": {"clock": 1, "day": 2, "month": 3, "year": 4},
}
PLACES = ("latitude", "longitude")
NO_NUMBER = "{} sentence with a field that is no number"


def _table(name: str, wanted: dict[str, int], sentences: Sentences, rejections: Rejections) -> Table:
    """The sentences of one kind as columns; those with a field that is no number go to the rejections."""
    columns: dict[str, Floats] = {}
    plain = np.ones(sentences.starts.size, dtype=np.bool_)
    for column, number in wanted.items():
        columns[column], readable = sentences.numbers(number)
        plain &= readable
        if column in PLACES:
            south_or_west = np.isin(sentences.letters(number + 1), (ord("S"), ord("W")))
            columns[column] = degrees_of(columns[column]) * np.where(south_or_west, -1.0, 1.0)
    if name == "RMC":
        status, mode = sentences.letters(2), sentences.letters(12)
        columns["valid"] = (status == ord("A")).astype(np.float64)
        columns["quality"] = _quality(mode)
    if name == "GNS":
        columns["quality"] = _quality(sentences.letters(6))
    rejections.all_of(sentences.lines[~plain], NO_NUMBER.format(name))
    kept = {column: values[plain] for column, values in columns.items()}
    return Table(sentences.starts[plain], sentences.lines[plain], kept)


def degrees_of(values: Floats | float) -> Floats:
    """Degrees of ddmm.mmm or dddmm.mmm."""
    whole = np.floor(values / 100.0)
    return np.asarray(whole + (values - 100.0 * whole) / 60.0)


def _quality(letters: ByteArray) -> Floats:
    """The fix quality of a mode letter, in the numbers of GGA."""
    table = np.full(256, np.nan)
    table[[ord(letter) for letter in QUALITY_OF_MODE]] = list(QUALITY_OF_MODE.values())
    return np.asarray(table[letters])


def seconds_of_day(clock: Floats | float) -> Floats:
    """Seconds of the day of hhmmss.sss."""
    hours, minutes = np.floor(clock / 10_000.0), np.floor(clock / 100.0) % 100.0
    return np.asarray(hours * 3600.0 + minutes * 60.0 + np.round(clock - np.floor(clock / 100.0) * 100.0, 6))


def _of_rmc(rmc: Table) -> Table:
    """RMC sentences as fixes."""
    columns = {name: rmc.columns[name] for name in ("clock", "latitude", "longitude", "course", "quality", "valid")}
    columns["speed_mps"] = rmc.columns["knots"] * KNOT_MPS
    columns["date_s"] = _each_once(rmc.columns["date"], midnight_of_date_s)
    return Table(rmc.places, rmc.lines, columns)


def _following(heights: Table, vtg: Table, rmc: Table) -> Table:
    """Fixes of GGA or GNS with the VTG sentence before the next of them, where no RMC states the same time."""
    index = np.searchsorted(vtg.places, heights.places)
    next_place = np.concatenate([heights.places[1:], [np.iinfo(np.int64).max]])
    found = (index < len(vtg)) & (vtg.places[np.minimum(index, len(vtg) - 1)] < next_place)
    knots, kmh = vtg.of("knots", index, found), vtg.of("kmh", index, found)
    columns = {name: heights.columns[name] for name in ("clock", "latitude", "longitude", "quality")}
    columns["valid"] = np.where(columns["quality"] == 0, 0.0, 1.0)
    columns["course"] = vtg.of("course", index, found)
    columns["speed_mps"] = np.where(np.isnan(kmh), knots * KNOT_MPS, kmh * KMH_MPS)
    columns["date_s"] = np.full(len(heights), np.nan)
    wanted = np.ones(len(heights), dtype=np.bool_)
    if len(rmc):
        wanted = ~_same_clock(heights, rmc)[1] & np.isfinite(columns["clock"])
    kept = {name: values[wanted] for name, values in columns.items()}
    return Table(heights.places[wanted], heights.lines[wanted], kept)


def _in_order(some: Table, others: Table) -> Table:
    """The fixes of both in the order in which they stand in the log."""
    places = np.concatenate([some.places, others.places])
    order = np.argsort(places, kind="stable")
    lines = np.concatenate([some.lines, others.lines])[order]
    columns = {name: np.concatenate([some.columns[name], others.columns[name]])[order] for name in some.columns}
    return Table(places[order], lines, columns)


def _usable(lines: NDArray[np.int64], columns: dict[str, Floats], rejections: Rejections) -> Truths:
    """Fixes that hold; what is wrong with the others goes to the rejections."""
    day_s, speed = columns["day_s"], columns["speed_mps"]
    left = np.ones(lines.size, dtype=np.bool_)
    reasons = (
        (columns["valid"] == 0, "no fix yet (the receiver's status is not valid)"),
        (np.isnan(day_s) | np.isnan(speed), "fix without time or speed"),
        ((day_s >= DAY_S + 1) | (speed < 0) | (speed >= FASTEST_MPS), "fix with an impossible time or speed"),
    )
    for wrong, reason in reasons:
        rejections.all_of(lines[wrong & left], reason)
        left &= ~wrong
    return left


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


def _last_before(fixes: Table, others: Table) -> tuple[NDArray[np.intp], Truths]:
    """For each fix the last sentence before it, and whether there is one."""
    index = np.searchsorted(others.places, fixes.places) - 1
    return index, np.asarray(index >= 0)


def _zda_dates(fixes: Table, zda: Table) -> Floats:
    """Seconds since 1970 of the date that the last ZDA before each fix states."""
    if not len(zda):
        return np.full(len(fixes), np.nan)
    stated = zda.columns["year"] * 10_000 + zda.columns["month"] * 100 + zda.columns["day"]
    index, found = _last_before(fixes, zda)
    return _each_once(Table(zda.places, zda.lines, {"date": stated}).of("date", index, found), midnight_of_iso_date_s)


def _each_once(dates: Floats, of_date: Callable[[float], float]) -> Floats:
    """What a function makes of dates in long rows of equal ones; NaN stays NaN."""
    changes = np.flatnonzero(np.diff(np.nan_to_num(dates, nan=-1.0), prepend=-2.0))
    lengths = np.diff(np.append(changes, dates.size))
    values = [of_date(date) if date == date else np.nan for date in dates[changes].tolist()]
    return np.repeat(np.array(values, dtype=np.float64), lengths)


def midnight_of_date_s(ddmmyy: float) -> float:
    """Seconds since 1970 of a ddmmyy date, NaN where there is none; years 80-99 are of the last century."""
    day, month, year = int(ddmmyy // 10_000), int(ddmmyy // 100 % 100), int(ddmmyy % 100)
    return _midnight_s(year + (1900 if year >= 80 else 2000), month, day)


def midnight_of_iso_date_s(yyyymmdd: float) -> float:
    return _midnight_s(int(yyyymmdd // 10_000), int(yyyymmdd // 100 % 100), int(yyyymmdd % 100))


def _midnight_s(year: int, month: int, day: int) -> float:
    try:
        return datetime(year, month, day, tzinfo=UTC).timestamp()
    except ValueError:
        return float("nan")
