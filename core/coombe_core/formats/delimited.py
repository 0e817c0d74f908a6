"""CSV with a header line: comma, semicolon or tab, decimal point or comma, speeds in any named unit."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Callable, Iterator, Mapping
from datetime import UTC, datetime
from typing import BinaryIO

import numpy as np

from coombe_core.formats.reading import (
    FASTEST_MPS,
    MOST_FIXES,
    ReadError,
    Reading,
    Rejection,
    Rejections,
    UnknownColumnsError,
    assemble,
    too_many_fixes,
)
from coombe_core.trace import COLUMNS, Trace
from coombe_core.units import FOOT_M, KMH_MPS, KNOT_MPS, MPH_MPS

FORMAT = "csv"
FIRST_UTC_S = 1e8  # a clock below this counts from the log's start, not from 1970

# Header name -> column of the trace and the factor to SI. Names are compared without case, spaces or brackets.
NAMES: dict[str, tuple[str, float]] = {
    **dict.fromkeys(("utc", "time", "timestamp", "timeutc", "datetime"), ("utc", 1.0)),
    **dict.fromkeys(("elapseds", "times", "seconds", "t", "ts"), ("elapsed_s", 1.0)),
    **dict.fromkeys(("speedmps", "speedm/s", "velocitym/s"), ("speed_mps", 1.0)),
    **dict.fromkeys(("speedkmh", "speedkm/h", "speedkph", "velocitykm/h"), ("speed_mps", KMH_MPS)),
    **dict.fromkeys(("speedmph", "velocitymph"), ("speed_mps", MPH_MPS)),
    **dict.fromkeys(("speedkn", "speedknots", "speedkt"), ("speed_mps", KNOT_MPS)),
    **dict.fromkeys(("latitudedeg", "latitude", "lat"), ("latitude_deg", 1.0)),
    **dict.fromkeys(("longitudedeg", "longitude", "lon", "lng"), ("longitude_deg", 1.0)),
    **dict.fromkeys(("coursedeg", "course", "heading", "headingdeg"), ("course_deg", 1.0)),
    **dict.fromkeys(("altitudem", "altitude", "elevationm", "elevation", "heightm"), ("altitude_m", 1.0)),
    **dict.fromkeys(("altitudeft", "elevationft"), ("altitude_m", FOOT_M)),
    **dict.fromkeys(("satellites", "sats"), ("satellites", 1.0)),
    **dict.fromkeys(("hdop",), ("hdop", 1.0)),
    **dict.fromkeys(("climbmps", "verticalspeedmps"), ("climb_mps", 1.0)),
    **dict.fromkeys(("speedaccuracymps",), ("speed_accuracy_mps", 1.0)),
    **dict.fromkeys(("fixquality",), ("fix_quality", 1.0)),
}


# What a person may call a column, in the order of a list to choose from.
MEANINGS = (
    *("utc", "elapsed_s", "speed_mps", "speed_kmh", "speed_mph", "speed_kn", "latitude_deg", "longitude_deg"),
    *(
        "course_deg",
        "altitude_m",
        "altitude_ft",
        "satellites",
        "hdop",
        "climb_mps",
        "speed_accuracy_mps",
        "fix_quality",
    ),
)


def recognizes(head: bytes) -> bool:
    """Whether the first line is text with a delimiter and a name that is known, or heads a table of numbers."""
    if b"\x00" in head:
        return False
    lines = _decode(head).lstrip("\ufeff").splitlines()
    if not lines:
        return False
    names = lines[0].split(_delimiter(lines[0]))
    return any(_plain(name) in NAMES for name in names) or _heads_numbers(names, lines, _delimiter(lines[0]))


def _heads_numbers(names: list[str], lines: list[str], delimiter: str) -> bool:
    """Whether two or more headings stand over as many cells, two of which are numbers."""
    cells = lines[1].split(delimiter) if len(lines) > 1 else []
    numbers = sum(bool(re.fullmatch(r"\s*-?\d+([.,]\d+)?\s*", cell)) for cell in cells)
    return len(names) > 1 and len(names) == len(cells) and numbers > 1


def headings(head: bytes) -> list[str]:
    """The headings of a table, as they stand in its first line."""
    first = _decode(head).lstrip("\ufeff").split("\n", 1)[0]
    return [name.strip() for name in next(csv.reader([first], delimiter=_delimiter(first)), [])]


def read(stream: BinaryIO, layout: Mapping[str, str] | None = None) -> Reading:
    """Fixes of a CSV log. `layout` gives headings the names that Coombe knows, such as {"v": "speed_kmh"}.

    Raises UnknownColumnsError where time or speed is not known among the headings, ReadError where no fix is left.
    """
    data = stream.read()
    if data.count(b"\n") > MOST_FIXES:
        raise ReadError(too_many_fixes())
    text = _decode(data).lstrip("\ufeff")
    delimiter = _delimiter(text.split("\n", 1)[0])
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    places = _places(next(rows), layout or {})
    parsers = [(place, column, _parser(column, factor, delimiter)) for place, column, factor in places]
    table: list[list[float]] = []
    lines: list[int] = []
    rejections = Rejections()
    for line, row in _filled(rows):
        try:
            table.append([_field(row, place, column, parse) for place, column, parse in parsers])
            lines.append(line)
        except ValueError as error:
            rejections.append(Rejection(line, str(error)))
    names = [column for _, column, _ in places]
    columns = dict(zip(names, np.array(table, dtype=np.float64).reshape(-1, len(names)).T, strict=True))
    clock = columns.pop("utc") if "utc" in columns else columns["elapsed_s"]
    date_known = bool(clock.size) and clock[0] > FIRST_UTC_S
    return assemble(clock, np.array(lines, dtype=np.int64), columns, rejections, FORMAT, date_known)


def write(trace: Trace) -> bytes:
    """The trace as CSV: ISO time and SI columns, units in the names; a column that no fix has is left out."""
    names = [name for name in COLUMNS if name != "elapsed_s" and np.isfinite(getattr(trace, name)).any()]
    columns = [getattr(trace, name).tolist() for name in names]
    lines = [",".join(["utc", *names])]
    for elapsed_s, *row in zip(trace.elapsed_s.tolist(), *columns, strict=True):
        moment = trace.utc_at(elapsed_s).isoformat(timespec="microseconds")
        lines.append(",".join([moment, *("" if math.isnan(value) else repr(value) for value in row)]))
    return ("\n".join(lines) + "\n").encode()


def _decode(data: bytes) -> str:
    return data.decode("utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8", errors="replace")


def _plain(name: str) -> str:
    return "".join(c for c in name.strip().strip('"').lower() if c.isalnum() or c == "/")


def _delimiter(header: str) -> str:
    return max(";\t,", key=header.count)


def _places(header: list[str], layout: Mapping[str, str]) -> list[tuple[int, str, float]]:
    """Where each known column stands and its factor to SI; the first of two columns for the same thing wins."""
    places: dict[str, tuple[int, str, float]] = {}
    for place, name in enumerate(header):
        column, factor = NAMES.get(_plain(layout.get(name.strip(), name)), ("", 0.0))
        if column and column not in places:
            places[column] = (place, column, factor)
    columns = [name.strip() for name in header]
    if "speed_mps" not in places:
        message = f"line 1: no speed column with a unit (such as speed_mps or speed_kmh) among {_listed(header)}"
        raise UnknownColumnsError(message, columns)
    if "utc" not in places and "elapsed_s" not in places:
        message = f"line 1: no time column (such as utc or elapsed_s) among {_listed(header)}"
        raise UnknownColumnsError(message, columns)
    return list(places.values())


def _listed(header: list[str]) -> str:
    return ", ".join(name.strip()[:30] for name in header[:12])


def _filled(rows: Iterator[list[str]]) -> Iterator[tuple[int, list[str]]]:
    line = 1
    try:
        for line, row in enumerate(rows, 2):
            if any(cell.strip() for cell in row):
                yield line, row
    except csv.Error as error:
        raise ReadError(f"line {line + 1}: {error}") from None


def _field(row: list[str], place: int, column: str, parse: Callable[[str], float]) -> float:
    if place >= len(row):
        raise ValueError(f"{column} is missing")
    text = row[place].strip()
    try:
        value = parse(text)
    except (ValueError, OverflowError):
        raise ValueError(f"{column} is no number: {text[:30]!r}") from None
    if column in ("speed_mps", "utc", "elapsed_s") and not math.isfinite(value):
        raise ValueError(f"{column} is missing")
    if column == "speed_mps" and not 0 <= value < FASTEST_MPS:
        raise ValueError(f"impossible speed: {text[:30]}")
    return value


def _parser(column: str, factor: float, delimiter: str) -> Callable[[str], float]:
    def number(text: str) -> float:
        if delimiter != ",":
            text = text.replace(",", ".")
        return float(text) * factor if text else math.nan

    def instant(text: str) -> float:
        try:
            return number(text)
        except ValueError:
            moment = datetime.fromisoformat(text)
            return (moment if moment.tzinfo else moment.replace(tzinfo=UTC)).timestamp()

    return instant if column == "utc" else number
