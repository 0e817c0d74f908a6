"""JSON lines of a positioning daemon: TPV reports for the fixes, SKY reports for satellites and geometry."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator
from datetime import datetime
from typing import Any, BinaryIO

import numpy as np

from coombe_core.formats.reading import FASTEST_MPS, Reading, Rejection, Rejections, assemble
from coombe_core.trace import Trace

FORMAT = "tpv"
LEAST_MODE = 2  # 2D
UNSTATED_ACCURACY_MPS = 0.05  # written of every speed
HEIGHTS = ("altMSL", "alt", "altHAE")
# The status of a TPV report in the numbers of NMEA's GGA.
QUALITY = {1.0: 1.0, 2.0: 2.0, 3.0: 4.0, 4.0: 5.0}
COLUMNS = (
    *("speed_mps", "latitude_deg", "longitude_deg", "altitude_m", "course_deg", "climb_mps", "speed_accuracy_mps"),
    *("fix_quality", "satellites", "hdop"),
)


def recognizes(head: bytes) -> bool:
    """Whether a TPV report stands in the head."""
    return b'"class"' in head and b'"TPV"' in head


def read(stream: BinaryIO) -> Reading:
    """Fixes of the TPV reports. Raises ReadError where no fix is left."""
    rows: list[list[float]] = []
    lines: list[int] = []
    rejections = Rejections()
    satellites = hdop = math.nan
    for line, report in _reports(stream, rejections):
        if report.get("class") == "SKY":
            satellites, hdop = _number(report, "uSat"), _number(report, "hdop")
        elif report.get("class") == "TPV":
            try:
                rows.append([*_fix(report), satellites, hdop])
                lines.append(line)
            except ValueError as error:
                rejections.append(Rejection(line, str(error)))
    table = np.array(rows, dtype=np.float64).reshape(-1, len(COLUMNS) + 1)
    columns = dict(zip(COLUMNS, table[:, 1:].T, strict=True))
    return assemble(table[:, 0], np.array(lines, dtype=np.int64), columns, rejections, FORMAT)


def write(trace: Trace) -> bytes:
    """A SKY report, then TPV reports, as JSON lines."""
    lines = [json.dumps({"class": "SKY", "hdop": float(trace.hdop[0]), "uSat": int(trace.satellites[0])})]
    for row, elapsed_s in enumerate(trace.elapsed_s.tolist()):
        report = {
            "class": "TPV",
            "mode": 3,
            "status": 3,
            "time": trace.utc_at(elapsed_s).isoformat(timespec="milliseconds").replace("+00:00", "Z"),
            "lat": float(trace.latitude_deg[row]),
            "lon": float(trace.longitude_deg[row]),
            "altMSL": float(trace.altitude_m[row]),
            "speed": float(trace.speed_mps[row]),
            "track": float(trace.course_deg[row]),
            "eps": UNSTATED_ACCURACY_MPS,
        }
        lines.append(json.dumps(report))
    return ("\n".join(lines) + "\n").encode()


def _reports(stream: BinaryIO, rejections: Rejections) -> Iterator[tuple[int, dict[str, Any]]]:
    for line, text in enumerate(stream, 1):
        if not text.strip():
            continue
        try:
            report = json.loads(text)
        except (ValueError, RecursionError):
            rejections.append(Rejection(line, "not a JSON object"))
            continue
        if isinstance(report, dict):
            yield line, report
        else:
            rejections.append(Rejection(line, "not a JSON object"))


def _fix(report: dict[str, Any]) -> tuple[float, ...]:
    """UTC seconds and the columns of one report. Raises ValueError with the reason where it holds no fix."""
    mode, speed = _number(report, "mode"), _number(report, "speed")
    if mode < LEAST_MODE:
        raise ValueError("no fix yet (TPV mode is below 2)")
    if not 0 <= speed < FASTEST_MPS:
        raise ValueError("TPV report without a usable speed")
    try:
        utc_s = datetime.fromisoformat(str(report.get("time"))).timestamp()
    except (ValueError, OverflowError):
        raise ValueError("TPV report without a time") from None
    height = next((_number(report, name) for name in HEIGHTS if name in report), math.nan)
    places = (_number(report, name) for name in ("lat", "lon"))
    motion = (_number(report, name) for name in ("track", "climb", "eps"))
    status = _number(report, "status") if "status" in report else 1.0
    return (utc_s, speed, *places, height, *motion, QUALITY.get(status, math.nan))


def _number(report: dict[str, Any], name: str) -> float:
    value = report.get(name)
    return float(value) if isinstance(value, int | float) and abs(value) < 1e300 else math.nan
