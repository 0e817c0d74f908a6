"""The tracks of cars over a course, on one plane, for a map without tiles."""

from __future__ import annotations

from typing import Any

import numpy as np

from coombe_core.formats.parquet import read_columns
from coombe_core.physics.course import flat_track
from courses.models import Course
from runs.models import RunTrace

MOST_TRACKS = 6
MOST_POINTS = 200


def tracks(course: Course) -> list[dict[str, Any]]:
    """Meters east and north of the first known place, for the latest runs on the course."""
    traces = RunTrace.objects.filter(run__course=course).order_by("-run__start_utc")[:MOST_TRACKS]
    columns = [(trace.run_id, read_columns(bytes(trace.fixes))) for trace in traces]
    if not columns:
        return []
    places = [np.concatenate([fixes[name] for _, fixes in columns]) for name in ("latitude_deg", "longitude_deg")]
    east_m, north_m = flat_track(*places)
    ends = np.cumsum([fixes["latitude_deg"].size for _, fixes in columns])
    made = []
    for (run, _), east, north in zip(columns, np.split(east_m, ends[:-1]), np.split(north_m, ends[:-1]), strict=True):
        known = np.flatnonzero(np.isfinite(east))
        kept = known[:: max(known.size // MOST_POINTS, 1)]
        if kept.size:
            made.append({"run": run, "east_m": east[kept].round(1).tolist(), "north_m": north[kept].round(1).tolist()})
    return made
