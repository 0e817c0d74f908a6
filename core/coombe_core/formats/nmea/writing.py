"""NMEA 0183 as a receiver writes it."""

from __future__ import annotations

import io
from functools import reduce
from operator import xor

from coombe_core.trace import Trace
from coombe_core.units import KNOT_MPS


def write(trace: Trace) -> bytes:
    """RMC and GGA sentences, time in milliseconds, speed in thousandths of a knot."""
    out = io.BytesIO()
    for row in range(len(trace)):
        moment = trace.utc_at(trace.elapsed_s[row])
        clock = f"{moment:%H%M%S}.{round(moment.microsecond / 1000) % 1000:03d}"
        place = f"{_angle(trace.latitude_deg[row], 2, 'NS')},{_angle(trace.longitude_deg[row], 3, 'EW')}"
        knots, course = trace.speed_mps[row] / KNOT_MPS, trace.course_deg[row]
        quality = f"4,{trace.satellites[row]:.0f},{trace.hdop[row]:.1f},{trace.altitude_m[row]:.3f},M,47.0,M,,"
        out.write(sentence(f"GNRMC,{clock},A,{place},{knots:.3f},{course:.1f},{moment:%d%m%y},,,R"))
        out.write(sentence(f"GNGGA,{clock},{place},{quality}"))
    return out.getvalue()


def _angle(degrees: float, width: int, hemispheres: str) -> str:
    whole, share = divmod(abs(degrees), 1.0)
    return f"{int(whole):0{width}d}{share * 60:010.7f},{hemispheres[int(degrees < 0)]}"


def sentence(body: str) -> bytes:
    """A sentence with its checksum and line end."""
    checksum = reduce(xor, body.encode(), 0)
    return f"${body}*{checksum:02X}\r\n".encode()
