"""Laps of one log: times, the best, the mean, and how hard the car corners."""

from __future__ import annotations

import io

from coombe_core.formats import read_log
from coombe_core.formats.reading import ReadError
from coombe_core.studies.laps import StartLine, find_start_line, laps, speed_along
from coombe_core.studies.problem import StudyError
from coombe_core.wording.studies import laps_sentence, problem
from runs import store
from runs.models import Log
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Point, Shown, Table


def laps_of(log: Log, line: StartLine | None) -> Shown:
    """The laps of a log; without a line one is sought where the car passes most often.

    Raises ValueError with a sentence where there is no lap.
    """
    if log.sha256 is None:
        raise ValueError(f"{log.name} is still being recorded.")
    try:
        trace = read_log(io.BytesIO(store.read(log.sha256))).trace
    except (ReadError, store.StoreError) as error:
        raise ValueError(f"{log.name}: {error}") from None
    try:
        found = laps(trace, line or find_start_line(trace))
    except StudyError as error:
        raise ValueError(f"{log.name}: {problem(error, 'study of laps')}") from None
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
