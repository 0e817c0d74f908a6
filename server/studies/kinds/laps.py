"""Laps of one log: times, the best, the mean, and how hard the car corners."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray

from coombe_core.formats import read_log
from coombe_core.formats.reading import ReadError
from coombe_core.physics.course import flat_track
from coombe_core.studies.laps import StartLine, find_start_line, laps, speed_along
from coombe_core.studies.problem import StudyError
from coombe_core.trace import Trace
from coombe_core.wording.studies import laps_sentence, problem
from runs import store
from runs.models import Log
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Drive, Point, Shown, Table

Floats = NDArray[np.float64]
MOVING_MPS = 2.0
MOST_PLACES = 400  # of a drive, for its map


def trace_of(log: Log) -> Trace:
    """The fixes of a log. Raises ValueError with a sentence where they can't be had."""
    if log.sha256 is None:
        raise ValueError(f"{log.name} is still being recorded.")
    try:
        return read_log(io.BytesIO(store.read(log.sha256))).trace
    except (ReadError, store.StoreError) as error:
        raise ValueError(f"{log.name}: {error}") from None


def drive_of(trace: Trace, line: StartLine | None) -> Drive:
    """The places of a drive where it moves, for a map on which a start line can be set, and which is nearest to one."""
    placed = np.flatnonzero(np.isfinite(trace.latitude_deg) & (trace.speed_mps > MOVING_MPS))
    places = placed[:: -(-placed.size // MOST_PLACES) or 1]
    latitude_deg, longitude_deg = trace.latitude_deg[places], trace.longitude_deg[places]
    east_m, north_m = flat_track(latitude_deg, longitude_deg)
    return Drive(
        latitude_deg.tolist(),
        longitude_deg.tolist(),
        (np.nan_to_num(trace.course_deg[places]) % 360.0).tolist(),
        east_m.round(1).tolist(),
        north_m.round(1).tolist(),
        _nearest(latitude_deg, longitude_deg, line) if line and places.size else None,
    )


def _nearest(latitude_deg: Floats, longitude_deg: Floats, line: StartLine) -> int:
    east_m, north_m = flat_track(
        np.append(line.latitude_deg, latitude_deg), np.append(line.longitude_deg, longitude_deg)
    )
    return int(np.argmin(np.hypot(east_m[1:], north_m[1:])))


def line_of(trace: Trace, asked: StartLine | None) -> StartLine | None:
    """The start line that was asked for, else where one is found; None where no place is passed twice."""
    try:
        return asked or find_start_line(trace)
    except StudyError:
        return None


def laps_of(trace: Trace, line: StartLine | None, name: str) -> Shown:
    """The laps of a drive. Raises ValueError with a sentence where there is none."""
    if line is None:
        raise ValueError(f"{name}: no place is passed twice. Set the start line on the map.")
    try:
        found = laps(trace, line)
    except StudyError as error:
        raise ValueError(f"{name}: {problem(error, 'study of laps')}") from None
    points = [Point(number, lap.time_s.value, lap.time_s.u95) for number, lap in enumerate(found.laps, 1)]
    best = found.laps[found.best]
    others = {f"lap {number}": lap for number, lap in enumerate(found.laps, 1) if lap is not best}
    shown = {f"lap {found.best + 1}, the best": best} | dict(list(others.items())[:2])
    traces = {name: speed_along(trace, lap) for name, lap in shown.items()}
    along = [
        ChartSeries(name, (), Band(distance_m.round(1).tolist(), speed_mps.round(2).tolist()))
        for name, (distance_m, speed_mps) in traces.items()
    ]
    rows: list[list[Cell]] = [
        [float(number), lap.time_s, lap.time_s.value - best.time_s.value, lap.distance_m, lap.peak_lateral_g]
        for number, lap in enumerate(found.laps, 1)
    ]
    columns = [
        *(
            Axis("lap"),
            Axis("time", "time", "s"),
            Axis("behind the best", "time", "s"),
            Axis("length", "distance", "m"),
        ),
        Axis("hardest cornering", "plain", "g"),
    ]
    charts = [
        Chart("Lap after lap", Axis("lap"), Axis("lap time", "time", "s"), [ChartSeries("laps", points)]),
        Chart("Speed along the lap", Axis("since the line", "distance", "m"), Axis("speed", "speed", "m/s"), along),
    ]
    return Shown([laps_sentence(found)], charts, [Table("Laps", columns, rows)])
