"""A look at files before anything of them is stored: what they are, what is in them, and where they were driven."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

import numpy as np

from coombe_core.detection.look import Look, is_can_log, look_at, look_at_can
from coombe_core.formats.parquet import read_columns
from coombe_core.physics.course import flat_track, is_opposite_direction, mean_heading_deg
from coombe_core.trace import Trace
from coombe_core.wording.look import odd_can_sentences, odd_sentences
from courses.models import Course
from runs import layouts
from runs.models import Log, RunTrace

NEAR_M = 1500.0  # from where a course's runs began to where these did
RECEIVER, CAN_LOG = "receiver log", "CAN log"


@dataclass(frozen=True)
class Looked:
    """What a file is, and what is odd about it.

    `course` is the number of the one that its runs began near, `already` of the log that holds the same bytes.
    """

    kind: str
    format: str
    start_utc: datetime | None
    duration_s: float
    rate_hz: float | None = None
    date_known: bool = True
    runs: dict[str, int] = field(default_factory=dict)
    course: int | None = None
    heading_deg: float | None = None
    already: int | None = None
    odd: list[str] = field(default_factory=list)


def look(data: bytes, layout: Mapping[str, str] | None, dbc: str | None) -> Looked:
    """Look at a file. Raises ReadError or CanError where it can't be read; nothing is stored either way."""
    if is_can_log(data):
        can = look_at_can(data, dbc)
        return Looked(CAN_LOG, can.format, can.start_utc, can.duration_s, odd=odd_can_sentences(can))
    seen = look_at(data, layout or layouts.remembered(data))
    trace = seen.reading.trace
    kinds = [run.kind for run in seen.runs]
    pull = _first_pull(seen)
    course = course_near(pull) if pull else None
    same_bytes = Log.objects.filter(sha256=hashlib.sha256(data).hexdigest())
    return Looked(
        RECEIVER,
        seen.reading.format,
        trace.start_utc,
        trace.duration_s,
        trace.rate_hz,
        trace.date_known,
        {kind: kinds.count(kind) for kind in dict.fromkeys(kinds)},
        course.pk if course else None,
        mean_heading_deg(pull) if pull else None,
        same_bytes.values_list("pk", flat=True).first(),
        odd_sentences(seen),
    )


def _first_pull(seen: Look) -> Trace | None:
    """The fixes of the first run that is no stop, else of the first run."""
    pull = next((run for run in seen.runs if run.kind != "stop"), next(iter(seen.runs), None))
    return seen.reading.trace.between(pull.start_s, pull.end_s) if pull else None


def course_near(pull: Trace) -> Course | None:
    """The course on which runs began nearest to this one, in its direction; None where none did within reach."""
    here = _place(pull.latitude_deg, pull.longitude_deg)
    if here is None:
        return None
    nearest, least_m = None, NEAR_M
    for course in Course.objects.filter(runs__isnull=False).distinct():
        trace = RunTrace.objects.filter(run__course=course).order_by("-run__start_utc").first()
        there = _place_of(trace) if trace else None
        away_m = _apart_m(here, there) if there else NEAR_M
        if away_m < least_m and not is_opposite_direction(course.heading_deg, pull):
            nearest, least_m = course, away_m
    return nearest


def _place_of(trace: RunTrace) -> tuple[float, float] | None:
    fixes = read_columns(bytes(trace.fixes))
    return _place(fixes["latitude_deg"], fixes["longitude_deg"])


def _place(latitude_deg: np.ndarray, longitude_deg: np.ndarray) -> tuple[float, float] | None:
    known = np.flatnonzero(np.isfinite(latitude_deg) & np.isfinite(longitude_deg))
    return (float(latitude_deg[known[0]]), float(longitude_deg[known[0]])) if known.size else None


def _apart_m(one: tuple[float, float], other: tuple[float, float]) -> float:
    """Meters between two places, on the plane that touches the earth at the first."""
    latitude_deg, longitude_deg = np.array([one, other]).T
    east_m, north_m = flat_track(latitude_deg, longitude_deg)
    return float(np.hypot(east_m[1], north_m[1]))
