"""GPX 1.0 and 1.1: track points with their time; speed from the file or, where it has none, from the positions."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats.reading import FASTEST_MPS, ReadError, Reading, Rejection, Rejections, assemble
from coombe_core.trace import COLUMNS, Trace

if TYPE_CHECKING:
    from gpxpy.gpx import GPXTrackPoint

FORMAT = "gpx"
Floats = NDArray[np.float64]
# What an extension element of a track point is called, whatever its namespace, and the column that it fills.
EXTENSIONS = {
    **dict.fromkeys(("speed",), "speed_mps"),
    **dict.fromkeys(("course", "heading"), "course_deg"),
    **dict.fromkeys(("climb",), "climb_mps"),
    **dict.fromkeys(("speed_accuracy",), "speed_accuracy_mps"),
    **dict.fromkeys(("fix_quality",), "fix_quality"),
}

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
    import gpxpy

    data = stream.read()
    plain = data.replace(b"\x00", b"").upper()
    if b"<!DOCTYPE" in plain or b"<!ENTITY" in plain:
        raise ReadError("the GPX file declares a document type or entities, which Coombe does not take")
    try:
        document = gpxpy.parse(data)
    except Exception as error:
        raise ReadError(f"this is no GPX that can be read: {str(error)[:120]}") from None
    points = [point for track in document.tracks for segment in track.segments for point in segment.points]
    if not points:
        raise ReadError("the GPX file has no track with points")
    return _assembled(points)


def write(trace: Trace) -> bytes:
    """One GPX 1.1 track; what GPX has no element for stands in extensions under their own names."""
    from xml.etree import ElementTree

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


def _assembled(points: list[GPXTrackPoint]) -> Reading:
    rejections = Rejections()
    rejections.extend(Rejection(n, "track point without a time") for n, p in enumerate(points, 1) if p.time is None)
    timed = [(number, point) for number, point in enumerate(points, 1) if point.time is not None]
    utc_s = np.array([point.time.timestamp() for _, point in timed if point.time])
    rows = [_columns(point) for _, point in timed]
    names = {name for row in rows for name in row}
    columns = {name: np.array([row.get(name, math.nan) for row in rows]) for name in sorted(names)}
    numbers = np.array([number for number, _ in timed], dtype=np.int64)
    if "speed_mps" not in columns:
        if utc_s.size < 3:
            raise ReadError("the GPX file has no speed and too few points to work one out")
        columns["speed_mps"] = _speed_from_positions(utc_s, columns["latitude_deg"], columns["longitude_deg"])
        return assemble(utc_s, numbers, columns, rejections, FORMAT, speed_from_positions=True)
    speed = columns["speed_mps"]
    usable = (speed >= 0) & (speed < FASTEST_MPS)
    rejections.all_of(numbers[~usable], "track point without a usable speed")
    kept = {name: column[usable] for name, column in columns.items()}
    return assemble(utc_s[usable], numbers[usable], kept, rejections, FORMAT)


def _columns(point: GPXTrackPoint) -> dict[str, float]:
    """What one point states, in SI units."""
    stated: dict[str, Any] = {
        "latitude_deg": point.latitude,
        "longitude_deg": point.longitude,
        "altitude_m": point.elevation,
        "speed_mps": point.speed,
        "course_deg": point.course,
        "satellites": point.satellites,
        "hdop": point.horizontal_dilution,
    }
    row = {name: float(value) for name, value in stated.items() if value is not None}
    for element in (inner for extension in point.extensions for inner in extension.iter()):
        column = EXTENSIONS.get(str(element.tag).rsplit("}", 1)[-1].lower())
        if column:
            try:
                row[column] = float(element.text or "")
            except ValueError:
                continue
    return row


def _speed_from_positions(utc_s: Floats, latitude_deg: Floats, longitude_deg: Floats) -> Floats:
    """Central differences of geodesic lengths on WGS 84."""
    from pyproj import Geod

    _, _, steps = Geod(ellps="WGS84").inv(longitude_deg[:-1], latitude_deg[:-1], longitude_deg[1:], latitude_deg[1:])
    distance_m = np.concatenate([[0.0], np.cumsum(steps)])
    ahead, behind = np.minimum(np.arange(utc_s.size) + 1, utc_s.size - 1), np.maximum(np.arange(utc_s.size) - 1, 0)
    elapsed_s = utc_s[ahead] - utc_s[behind]
    speed = (distance_m[ahead] - distance_m[behind]) / np.where(elapsed_s > 0, elapsed_s, np.inf)
    return np.asarray(np.minimum(speed, FASTEST_MPS))
