"""Runs of logs as a command takes them: timed, with what a run table says of each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from coombe_core.analysis import AnalyzedRun, Request, analyse_log
from coombe_core.cli.process_pool import in_processes
from coombe_core.cli.run_table import Row
from coombe_core.comparing.state import State, hour_of
from coombe_core.formats import ReadError
from coombe_core.physics.course import SurveyedCourse, directions_of, mean_heading_deg
from coombe_core.physics.road_load import RoadLoad
from coombe_core.timing.corrections import Correction
from coombe_core.timing.measures import Measure
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value


@dataclass(frozen=True)
class LogRun:
    """A run of a log and the table's row for it, when it began (UTC), its heading and the receiver's rate."""

    timed: AnalyzedRun
    row: Row
    at: datetime
    heading_deg: float | None
    rate_hz: float


def states_of(*groups: Sequence[LogRun]) -> list[list[State]]:
    """What logs and their rows tell of the runs of all groups."""
    directions = iter(directions_of([run.heading_deg for group in groups for run in group]))
    return [[_state(run, next(directions)) for run in group] for group in groups]


def _state(run: LogRun, direction: str) -> State:
    slope = run.timed.slope_percent
    of_log = State(
        day=f"{run.at:%Y-%m-%d}",
        hour=hour_of(run.at),
        direction=direction,
        rate_hz=run.rate_hz,
        slope_percent=slope.value if slope else None,
    )
    return run.row.state(of_log, run.heading_deg)


def runs_of(rows: Sequence[Row], measure: Measure) -> list[LogRun]:
    """Every complete run of the logs that no flag voids. Raises ReadError with the path of a log that fails."""
    runs: list[LogRun] = []
    for row in rows:
        mass_kg = row.numbers.get("mass_kg")
        load = RoadLoad.of(mass_kg, None) if mass_kg else None
        request = Request([measure], _surveyed(row.numbers.get("slope_percent")), Correction(road_load=load))
        try:
            with row.log.open("rb") as log:
                analysis = analyse_log(log, request, in_processes)
        except OSError as error:
            raise ReadError(f"{row.log}: {error.strerror}") from None
        except ReadError as error:
            raise ReadError(f"{row.log}: {error}") from None
        runs.extend(_log_run(run, row, analysis.reading.trace) for run in analysis.runs if run.counts(measure))
    return runs


def _log_run(run: AnalyzedRun, row: Row, trace: Trace) -> LogRun:
    at = trace.utc_at(run.start_s)
    heading = mean_heading_deg(trace.between(run.start_s, run.end_s))
    return LogRun(run, row, at, heading, round(trace.rate_hz, 1))


def _surveyed(slope_percent: float | None) -> SurveyedCourse | None:
    return None if slope_percent is None else SurveyedCourse(Value(slope_percent, 0.0))
