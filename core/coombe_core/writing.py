"""Traces as open formats that other programs read; what goes out comes back in unchanged."""

from __future__ import annotations

import io
import math

import numpy as np

from coombe_core.trace import COLUMNS, Trace

# GPX has elements of its own for these; the others go into extensions.
GPX_OWN = ("latitude_deg", "longitude_deg", "altitude_m", "satellites", "hdop")
GPX_NAMESPACE = "urn:coombe:trace:1"
GPX_EXTENSIONS = {
    "speed_mps": "speed",
    "course_deg": "course",
    "climb_mps": "climb",
    "speed_accuracy_mps": "speed_accuracy",
    "fix_quality": "fix_quality",
}


def to_csv(trace: Trace) -> bytes:
    """ISO time and SI columns, units in the names; a column that no fix has is left out."""
    names = [name for name in COLUMNS if name != "elapsed_s" and np.isfinite(getattr(trace, name)).any()]
    columns = [getattr(trace, name).tolist() for name in names]
    lines = [",".join(["utc", *names])]
    for elapsed_s, *row in zip(trace.elapsed_s.tolist(), *columns, strict=True):
        moment = trace.utc_at(elapsed_s).isoformat(timespec="microseconds")
        lines.append(",".join([moment, *("" if math.isnan(value) else repr(value) for value in row)]))
    return ("\n".join(lines) + "\n").encode()


def to_gpx(trace: Trace) -> bytes:
    """One GPX 1.1 track; what GPX has no element for stands in extensions under their own names."""
    from xml.etree import ElementTree

    from gpxpy.gpx import GPX, GPXTrack, GPXTrackPoint, GPXTrackSegment

    document, segment = GPX(), GPXTrackSegment()
    document.nsmap["coombe"] = GPX_NAMESPACE
    columns = {name: getattr(trace, name).tolist() for name in COLUMNS}
    for row, elapsed_s in enumerate(columns["elapsed_s"]):
        own = {name: columns[name][row] for name in GPX_OWN}
        known = {name: None if math.isnan(value) else value for name, value in own.items()}
        point = GPXTrackPoint(
            known["latitude_deg"] or 0.0, known["longitude_deg"] or 0.0, known["altitude_m"], trace.utc_at(elapsed_s)
        )
        point.horizontal_dilution = known["hdop"]
        point.satellites = None if known["satellites"] is None else int(known["satellites"])
        for name, element_name in GPX_EXTENSIONS.items():
            if not math.isnan(columns[name][row]):
                element = ElementTree.Element(f"{{{GPX_NAMESPACE}}}{element_name}")
                element.text = repr(columns[name][row])
                point.extensions.append(element)
        segment.points.append(point)
    track = GPXTrack()
    track.segments.append(segment)
    document.tracks.append(track)
    return document.to_xml(version="1.1").encode()


def to_parquet(trace: Trace) -> bytes:
    """Every column as float64, compressed with zstd; the start stands in the file's metadata."""
    import polars as pl

    out = io.BytesIO()
    frame = pl.DataFrame({name: getattr(trace, name) for name in COLUMNS})
    frame.write_parquet(out, compression="zstd", metadata={"start_utc": trace.start_utc.isoformat()})
    return out.getvalue()
