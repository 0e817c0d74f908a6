"""What a stand-in receiver says of a trace in formats other than NMEA: UBX messages and positioning JSON."""

from __future__ import annotations

import json
import math

from coombe_core.trace import Trace

NOISE_MPS = 0.05  # the accuracy that the stand-in states of its speed where the trace states none


def write_ubx(trace: Trace) -> bytes:
    """NAV-PVT messages: speeds and heights in millimetres, places in units of 1e-7 degrees."""
    from pyubx2 import GET, UBXMessage

    messages = []
    for row, elapsed_s in enumerate(trace.elapsed_s.tolist()):
        moment = trace.utc_at(elapsed_s)
        known = {name: getattr(trace, name)[row] for name in ("climb_mps", "speed_accuracy_mps", "satellites")}
        climb, accuracy, satellites = (0.0 if math.isnan(value) else float(value) for value in known.values())
        message = UBXMessage(
            "NAV",
            "NAV-PVT",
            GET,
            **{"year": moment.year, "month": moment.month, "day": moment.day, "hour": moment.hour},
            **{"min": moment.minute, "second": moment.second, "nano": moment.microsecond * 1000},
            **{"validDate": 1, "validTime": 1, "fixType": 3, "gnssFixOk": 1, "carrSoln": 2, "numSV": int(satellites)},
            **{"lat": float(trace.latitude_deg[row]), "lon": float(trace.longitude_deg[row])},
            hMSL=round(trace.altitude_m[row] * 1000),
            gSpeed=round(trace.speed_mps[row] * 1000),
            headMot=float(trace.course_deg[row]),
            velD=round(-climb * 1000),
            sAcc=round((accuracy or NOISE_MPS) * 1000),
        )
        messages.append(message.serialize())
    return b"".join(messages)


def write_positioning(trace: Trace) -> bytes:
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
            "eps": NOISE_MPS,
        }
        lines.append(json.dumps(report))
    return ("\n".join(lines) + "\n").encode()
