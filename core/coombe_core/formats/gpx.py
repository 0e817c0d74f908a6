"""GPX 1.0 and 1.1: track points with their time; speed from the file or, where it has none, from the positions."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from functools import lru_cache
from typing import BinaryIO
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.reading import FASTEST_MPS, ReadError, Reading, Rejections, assemble
from coombe_core.trace import COLUMNS, Trace

FORMAT = "gpx"
Floats = NDArray[np.float64]
Stated = tuple[str, slice | list[int], list[str | None]]  # time or a column, the numbers of points, and their texts
# What elements of a track point are called, whatever their namespace, and the columns that they fill.
ELEMENTS = {"ele": "altitude_m", "speed": "speed_mps", "course": "course_deg", "sat": "satellites", "hdop": "hdop"}
PLACE = {"lat": "latitude_deg", "lon": "longitude_deg"}
EXTENSIONS = {
    **{"speed": "speed_mps", "course": "course_deg", "heading": "course_deg", "climb": "climb_mps"},
    **{"speed_accuracy": "speed_accuracy_mps", "fix_quality": "fix_quality"},
}
MOST_NAMES = 1024  # of elements that are remembered

# GPX has elements of its own for these; the others go into extensions.
OWN = ("latitude_deg", "longitude_deg", "altitude_m", "satellites", "hdop")
NAMESPACE = "urn:coombe:trace:1"
EXTENSIONS_WRITTEN = {
    "speed_mps": "speed",
    "course_deg": "course",
    "climb_mps": "climb",
    "speed_accuracy_mps": "speed_accuracy",
    "fix_quality": "fix_quality",
}


def recognizes(head: bytes) -> bool:
    """Whether a gpx element opens in the head, in UTF-8 or UTF-16."""
    return b"<gpx" in head or "<gpx".encode("utf-16-le") in head or "<gpx".encode("utf-16-be") in head


def read(stream: BinaryIO) -> Reading:
    """Track points of a GPX log; a rejection's line is the number of the point. Raises ReadError where none is left.

    A document type is refused: nothing in a track needs one, and entities can be made to swell without limit.
    """
    data = stream.read()
    plain = data.replace(b"\x00", b"").upper()
    if b"<!DOCTYPE" in plain or b"<!ENTITY" in plain:
        raise ReadError("the GPX file declares a document type or entities, which Coombe does not take")
    try:
        points = [each for each in ElementTree.fromstring(data).iter() if _name(each.tag) == "trkpt"]
    except (ElementTree.ParseError, LookupError, ValueError) as error:
        raise ReadError(f"this is no GPX that can be read: {str(error)[:120]}") from None
    if not points:
        raise ReadError("the GPX file has no track with points")
    return _assembled(points)


def write(trace: Trace) -> bytes:
    """One GPX 1.1 track; what GPX has no element for stands in extensions under their own names."""
    from gpxpy.gpx import GPX, GPXTrack, GPXTrackPoint, GPXTrackSegment

    document, segment = GPX(), GPXTrackSegment()
    document.nsmap["coombe"] = NAMESPACE
    columns = {name: getattr(trace, name).tolist() for name in COLUMNS}
    for row, elapsed_s in enumerate(columns["elapsed_s"]):
        own = {name: columns[name][row] for name in OWN}
        known = {name: None if math.isnan(value) else value for name, value in own.items()}
        point = GPXTrackPoint(
            known["latitude_deg"] or 0.0, known["longitude_deg"] or 0.0, known["altitude_m"], trace.utc_at(elapsed_s)
        )
        point.horizontal_dilution = known["hdop"]
        point.satellites = None if known["satellites"] is None else int(known["satellites"])
        for name, element_name in EXTENSIONS_WRITTEN.items():
            if not math.isnan(columns[name][row]):
                element = ElementTree.Element(f"{{{NAMESPACE}}}{element_name}")
                element.text = repr(columns[name][row])
                point.extensions.append(element)
        segment.points.append(point)
    track = GPXTrack()
    track.segments.append(segment)
    document.tracks.append(track)
    return document.to_xml(version="1.1").encode()


def _assembled(points: list[ElementTree.Element]) -> Reading:
    numbers, rejections = np.arange(1, len(points) + 1), Rejections()
    columns, times = _columns(points)
    utc_s = _utc_s(times)
    timed, placed = np.isfinite(utc_s), np.isfinite(columns["latitude_deg"] + columns["longitude_deg"])
    rejections.all_of(numbers[~timed], "track point without a time")
    rejections.all_of(numbers[timed & ~placed], "track point without latitude and longitude")
    usable = timed & placed
    worked_out = "speed_mps" not in columns
    if worked_out:
        if usable.sum() < 3:
            raise ReadError("the GPX file has no speed and too few points to work one out")
        places = columns["latitude_deg"][usable], columns["longitude_deg"][usable]
        columns["speed_mps"] = np.zeros(numbers.size)
        columns["speed_mps"][usable] = _speed_from_positions(utc_s[usable], *places)
    else:
        moving = (columns["speed_mps"] >= 0) & (columns["speed_mps"] < FASTEST_MPS)
        rejections.all_of(numbers[usable & ~moving], "track point without a usable speed")
        usable &= moving
    kept = {name: column[usable] for name, column in columns.items()}
    return assemble(utc_s[usable], numbers[usable], kept, rejections, FORMAT, speed_from_positions=worked_out)


def _columns(points: list[ElementTree.Element]) -> tuple[dict[str, Floats], list[str]]:
    """What the points (n) state in SI units, nan where one does not, and the texts of their times."""
    columns = {column: _numbers([point.get(name) for point in points]) for name, column in PLACE.items()}
    times = [""] * len(points)
    for name, numbers, texts in _alike(points) or _one_by_one(points):
        if name == "time":
            times = [(text or "").strip() for text in texts]
        elif not np.isnan(values := _numbers(texts)).all():
            column = columns.setdefault(name, np.full(len(points), np.nan))
            column[numbers] = np.where(np.isnan(values), column[numbers], values)
    return columns, times


def _alike(points: list[ElementTree.Element]) -> list[Stated] | None:
    """What is stated by points that all have the same elements in the same order; None where they have not."""
    elements = [element for point in points for element in point.iter()]
    tags = [element.tag for element in points[0].iter()]
    if [element.tag for element in elements] != tags * len(points):
        return None
    place = {element: number for number, element in enumerate(points[0].iter())}
    stated = ((name, elements[place[element] :: len(tags)]) for name, element in _stated(points[0]))
    return [(name, slice(None), [element.text for element in column]) for name, column in stated]


def _one_by_one(points: list[ElementTree.Element]) -> Iterator[Stated]:
    """What is stated by points of which one has what another has not; of two the later counts."""
    texts: dict[str, dict[int, str | None]] = {"time": dict.fromkeys(range(len(points)))}
    for number, point in enumerate(points):
        for name, element in _stated(point):
            if name == "time" or not math.isnan(_number(element.text)):
                texts.setdefault(name, {})[number] = element.text
    return ((name, list(each), list(each.values())) for name, each in texts.items())


def _stated(point: ElementTree.Element) -> Iterator[tuple[str, ElementTree.Element]]:
    """The time of a point and every column that it states, as elements; extensions last."""
    for element in point:
        name = _name(element.tag)
        if name == "time":
            yield name, element
        elif name in ELEMENTS:
            yield ELEMENTS[name], element
        elif name == "extensions":
            for inner in element.iter():
                if (name := _name(inner.tag).lower()) in EXTENSIONS:
                    yield EXTENSIONS[name], inner


@lru_cache(MOST_NAMES)
def _name(tag: str | Callable[..., object]) -> str:
    """The name of an element without its namespace; none of a comment."""
    return tag.rsplit("}", 1)[-1] if isinstance(tag, str) else ""


def _numbers(texts: list[str | None]) -> Floats:
    try:
        return np.array(texts, np.float64)
    except (TypeError, ValueError):
        return np.array([_number(text) for text in texts])


def _number(text: str | None) -> float:
    try:
        return float(text or "nan")
    except ValueError:
        return math.nan


def _utc_s(times: list[str]) -> Floats:
    """Seconds since 1970 UTC of times in ISO 8601 (n), nan of what is none; a time without a zone is UTC."""
    if all(time.endswith("Z") for time in times):
        try:
            moments = np.array([time[:-1] for time in times], "datetime64[us]")
            return np.where(np.isnat(moments), np.nan, moments.astype(np.int64) / 1e6)
        except ValueError:
            pass
    return np.array([_moment_s(time) for time in times])


def _moment_s(time: str) -> float:
    try:
        moment = datetime.fromisoformat(time)
    except ValueError:
        return math.nan
    return (moment if moment.tzinfo else moment.replace(tzinfo=UTC)).timestamp()


def _speed_from_positions(utc_s: Floats, latitude_deg: Floats, longitude_deg: Floats) -> Floats:
    """Central differences of geodesic lengths on WGS 84."""
    from pyproj import Geod

    _, _, steps = Geod(ellps="WGS84").inv(longitude_deg[:-1], latitude_deg[:-1], longitude_deg[1:], latitude_deg[1:])
    distance_m = np.concatenate([[0.0], np.cumsum(steps)])
    ahead, behind = np.minimum(np.arange(utc_s.size) + 1, utc_s.size - 1), np.maximum(np.arange(utc_s.size) - 1, 0)
    elapsed_s = utc_s[ahead] - utc_s[behind]
    speed = (distance_m[ahead] - distance_m[behind]) / np.where(elapsed_s > 0, elapsed_s, np.inf)
    return np.asarray(np.minimum(speed, FASTEST_MPS))
