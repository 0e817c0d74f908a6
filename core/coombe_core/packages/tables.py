"""The tables of a data package, described after the open Data Package and Table Schema standards."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

FORMAT = "coombe.package/1"
LICENSES = {"": "all rights reserved", "CC0-1.0": "CC0 1.0", "CC-BY-4.0": "CC BY 4.0", "CC-BY-SA-4.0": "CC BY-SA 4.0"}
TypeName = Literal["string", "number", "integer", "boolean", "datetime", "date"]


@dataclass(frozen=True)
class Column:
    """A column: its name with the unit in it, its type, and what it holds."""

    name: str
    type: TypeName
    description: str


def _columns(rows: Mapping[str, tuple[TypeName, str]]) -> tuple[Column, ...]:
    return tuple(Column(name, *about) for name, about in rows.items())


TABLES: Mapping[str, tuple[Column, ...]] = {
    "logs": _columns(
        {
            "sha256": ("string", "hash of the log's bytes; the file is logs/ and this, with the suffix of its name"),
            "name": ("string", "what it was called when it was imported"),
            "format": ("string", "how it was read"),
            "file": ("string", "where it is in this package; empty where only its runs' fixes were kept"),
            "layout": ("string", "what the headings of a table mean, as JSON; empty where they are known"),
            "can_file": ("string", "the CAN log of the same drive; empty where there is none"),
        }
    ),
    "courses": _columns(
        {
            "course": ("integer", "number of the course"),
            "name": ("string", "name"),
            "direction": ("string", "out or back"),
            "heading_deg": ("number", "of the way out, from north"),
            "length_m": ("number", "of the strip"),
            "slope_percent": ("number", "surveyed, positive uphill; empty where it never was"),
            "slope_u95_percent": ("number", "half-width of its 95 % interval"),
            "time_zone": ("string", "IANA name"),
        }
    ),
    "stations": _columns(
        {
            "course": ("integer", "number of the course"),
            "distance_m": ("number", "from where cars stage, along the heading"),
            "elevation_m": ("number", "above any level"),
        }
    ),
    "setups": _columns(
        {
            "setup": ("integer", "number of the setup"),
            "car": ("string", "name of the car"),
            "name": ("string", "name of the setup"),
            "since": ("date", "from when on"),
            "change": ("string", "what was changed"),
            "software_version": ("string", "of the car"),
            "tires": ("string", "season and size"),
            "tire_pressure_kpa": ("number", "cold"),
            "test_mass_kg": ("number", "of the car, with driver"),
        }
    ),
    "runs": _columns(
        {
            "run": ("integer", "number of the run"),
            "log": ("string", "hash of its log"),
            "kind": ("string", "standing, rolling or stop"),
            "start_utc": ("datetime", "when it began"),
            "start_s": ("number", "seconds after the log's first fix"),
            "setup": ("integer", "number of its setup"),
            "course": ("integer", "number of its course; empty where that was not noted"),
            "direction": ("string", "out or back"),
            "receiver": ("string", "name of the receiver"),
            "smoothing_s": ("number", "time constant of the receiver's filter, where it is known"),
            "smoothing_u95_s": ("number", "half-width of its 95 % interval"),
            "validity": ("string", "valid or void"),
            "void_reason": ("string", "why a void run is void"),
            "timed_with": ("string", "version of the core that timed it"),
        }
    ),
    "conditions": _columns(
        {
            "run": ("integer", "number of the run"),
            "charge_before_percent": ("number", "charge before the run"),
            "charge_after_percent": ("number", "charge after it"),
            "battery_temp_before_c": ("number", "battery temperature before the run"),
            "outside_temp_c": ("number", "of the air"),
            "pressure_hpa": ("number", "of the air, at the course"),
            "humidity_percent": ("number", "of the air"),
            "wind_mps": ("number", "wind speed"),
            "wind_from_deg": ("number", "where it came from"),
            "drive_mode": ("string", "as the car calls it"),
            "launch_aid": ("boolean", "whether it was on"),
            "climate_on": ("boolean", "whether climate control was on"),
            "occupants": ("integer", "with the driver"),
            "load_kg": ("number", "beside them"),
            "surface": ("string", "of the course"),
            "driver": ("string", "who drove"),
        }
    ),
    "measures": _columns(
        {
            "run": ("integer", "number of the run"),
            "name": ("string", "of the measure"),
            "clock": ("string", "first_movement, rollout or speed"),
            "quantity": ("string", "what was measured, with its SI unit"),
            "value": ("number", "in that unit"),
            "u95": ("number", "half-width of its 95 % interval"),
        }
    ),
    "members": _columns(
        {
            "run": ("integer", "number of the run"),
            "comparison": ("integer", "number of the comparison"),
            "group": ("string", "which group of it the run is in"),
            "value": ("number", "what the comparison took of it"),
            "dropped": ("string", "why it does not count; empty where it does"),
        }
    ),
    "verdict": _columns(
        {
            "comparison": ("integer", "number of the comparison"),
            "title": ("string", "the question"),
            "group": ("string", "compared with the first group"),
            "measure": ("string", "of every run"),
            "clock": ("string", "of the times"),
            "quantity": ("string", "time, distance or a speed"),
            "verdict": ("string", "in a word"),
            "difference": ("number", "this group's mean minus the first's"),
            "low95": ("number", "lower end of its 95 % interval"),
            "high95": ("number", "upper end"),
            "unit": ("string", "of the three"),
            "sentence": ("string", "in a sentence"),
        }
    ),
}
