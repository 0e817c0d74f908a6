"""NMEA 0183 sentence by sentence, as a receiver sends it; fields and their meaning are those of the log's reader."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from functools import reduce
from operator import xor

from coombe_core.formats.nmea import LONGEST
from coombe_core.formats.nmea.epochs import (
    COLUMN_OF,
    DAY_S,
    FIELDS,
    PLACES,
    QUALITY_OF_MODE,
    degrees_of,
    midnight_of_date_s,
    midnight_of_iso_date_s,
    seconds_of_day,
)
from coombe_core.units import KMH_MPS, KNOT_MPS

Fields = dict[str, float]
Found = tuple[float, dict[str, float], bool]
SENTENCE = re.compile(rb"\$([A-Z]{5},[^$*\r\n]*)\*([0-9A-Fa-f]{2})")
MODE_FIELD = {"RMC": 12, "GNS": 6}


class NmeaStream:
    """Takes bytes in pieces and yields fixes; an epoch is over when a sentence states another time."""

    def __init__(self) -> None:
        self.rejected = 0
        self._rest = b""
        self._clock = math.nan
        self._epoch: dict[str, Fields] = {}
        self._date_s = math.nan
        self._shape_hdop = math.nan
        self._reported = False

    def feed(self, data: bytes) -> Iterator[Found]:
        """Take the next bytes; yield every fix twice, once it is fresh and once it is complete."""
        *lines, self._rest = (self._rest + data).split(b"\n")
        self._rest = self._rest[-LONGEST:]
        for line in lines:
            yield from self._take(line)

    def finish(self) -> Iterator[Found]:
        """Yield the fix of the last epoch."""
        yield from self._end_epoch()

    def _take(self, line: bytes) -> Iterator[Found]:
        """The sentences of one line: more than one where what should part them was lost."""
        for body, stated in SENTENCE.findall(line):
            if reduce(xor, body, 0) != int(stated, 16):
                self.rejected += 1
                continue
            kind, *data = body.decode("ascii", errors="replace").split(",")
            if kind[2:] not in FIELDS:
                continue
            try:
                fields = _fields(kind[2:], data)
            except ValueError:
                self.rejected += 1
                continue
            yield from self._with(kind[2:], fields)

    def _with(self, kind: str, fields: Fields) -> Iterator[Found]:
        clock = fields.get("clock", math.nan)
        if clock == clock and clock != self._clock:
            yield from self._end_epoch()
            self._clock = clock
        if kind == "ZDA":
            self._date_s = midnight_of_iso_date_s(fields["year"] * 10_000 + fields["month"] * 100 + fields["day"])
        elif kind == "GSA":
            self._shape_hdop = fields["hdop"]
        else:
            self._epoch.setdefault(kind, {**fields, "shape_hdop": self._shape_hdop})
        fix = None if self._reported else self._fix()
        if fix:
            self._reported = True
            yield (*fix, False)

    def _end_epoch(self) -> Iterator[Found]:
        fix = self._fix()
        if fix:
            yield (*fix, True)
        elif {"RMC", "GGA", "GNS"} & self._epoch.keys():
            self.rejected += 1
        self._epoch, self._reported = {}, False

    def _fix(self) -> tuple[float, dict[str, float]] | None:
        """The epoch's fix as far as it is known; None without time, date or speed, or where it is not valid."""
        heights = self._epoch.get("GGA") or self._epoch.get("GNS") or {}
        fix = self._epoch.get("RMC") or self._followed(heights)
        if not fix or not fix["valid"]:
            return None
        day_s = float(seconds_of_day(self._clock))
        date_s = midnight_of_date_s(fix["date"]) if fix.get("date", math.nan) == fix.get("date") else self._date_s
        if not (day_s < DAY_S + 1 and math.isfinite(date_s) and math.isfinite(fix["speed_mps"])):
            return None
        columns = {COLUMN_OF.get(name, name): fix[name] for name in ("latitude", "longitude", "course", "speed_mps")}
        for name in ("altitude", "satellites", "hdop", "quality"):
            columns[COLUMN_OF.get(name, name)] = heights.get(name, math.nan)
        if math.isnan(columns["hdop"]):
            columns["hdop"] = fix["shape_hdop"]
        if math.isnan(columns["fix_quality"]):
            columns["fix_quality"] = fix["quality"]
        return date_s + day_s, columns

    def _followed(self, heights: Fields) -> Fields:
        """GGA or GNS with the VTG sentence after it, where there is no RMC."""
        vtg = self._epoch.get("VTG")
        if not heights or not vtg:
            return {}
        speed_mps = vtg["knots"] * KNOT_MPS if math.isnan(vtg["kmh"]) else vtg["kmh"] * KMH_MPS
        valid = float(heights["quality"] != 0)
        return {**heights, "course": vtg["course"], "speed_mps": speed_mps, "valid": valid}


def _fields(kind: str, data: list[str]) -> Fields:
    """The numbers of a sentence by name. Raises ValueError where a field is no number."""
    fields = {
        name: _number(data[number - 1]) if number <= len(data) else math.nan for name, number in FIELDS[kind].items()
    }
    for name in PLACES:
        if name in fields:
            toward = _at(data, FIELDS[kind][name] + 1)
            fields[name] = float(degrees_of(fields[name])) * (-1.0 if toward in ("S", "W") else 1.0)
    if kind in MODE_FIELD:
        fields["quality"] = QUALITY_OF_MODE.get(_at(data, MODE_FIELD[kind])[:1], math.nan)
    if kind == "RMC":
        fields["valid"] = float(_at(data, 2) == "A")
        fields["speed_mps"] = fields["knots"] * KNOT_MPS
    return fields


def _at(data: list[str], number: int) -> str:
    """The field of that number, counted from 1; empty where the sentence is shorter."""
    return data[number - 1] if number <= len(data) else ""


def _number(text: str) -> float:
    return float(text) if text else math.nan
