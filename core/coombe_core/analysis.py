"""From a log's bytes to timed runs."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from coombe_core.correction import Correction, corrected
from coombe_core.course import SurveyedCourse
from coombe_core.reading import Reading, read_log
from coombe_core.runs.finding import FoundRun, find_runs
from coombe_core.timing.measure import STANDARD_MEASURES, Measure
from coombe_core.timing.result import TimedRun
from coombe_core.timing.speed_fit import TooFewFixesError
from coombe_core.timing.standing import time_standing
from coombe_core.timing.stops import time_stop
from coombe_core.trace import Trace


@dataclass(frozen=True)
class Request:
    """What to time beyond the standard measures, the surveyed course, and what to correct."""

    measures: Sequence[Measure] = ()
    surveyed: SurveyedCourse | None = None
    correction: Correction = field(default_factory=Correction)

    @property
    def all_measures(self) -> list[Measure]:
        """The standard measures and those named, each once."""
        return list({measure.name: measure for measure in (*STANDARD_MEASURES, *self.measures)}.values())


@dataclass(frozen=True)
class Analysis:
    """A log, read and timed; `sha256` is of its bytes."""

    sha256: str
    reading: Reading
    runs: list[TimedRun]


def analyse_log(data: bytes, request: Request | None = None) -> Analysis:
    """Read a log, find its runs and time them. Raises ReadError where it cannot be read."""
    reading = read_log(data)
    return Analysis(hashlib.sha256(data).hexdigest(), reading, time_runs(reading.trace, request or Request()))


def time_runs(trace: Trace, request: Request) -> list[TimedRun]:
    """Every run of the trace that has enough fixes to be timed, in the order of time."""
    timed = (_timed(trace, found, request) for found in find_runs(trace))
    return [run for run in timed if run]


def _timed(trace: Trace, found: FoundRun, request: Request) -> TimedRun | None:
    try:
        fixes = trace.between(found.start_s, found.end_s)
        slope = request.surveyed.slope_along(fixes) if request.surveyed else None
        if found.kind == "stop":
            return time_stop(trace, found, request.all_measures, slope)
        run = time_standing(trace, found, request.all_measures, slope)
        return corrected(run, request.correction)
    except (TooFewFixesError, np.linalg.LinAlgError):
        return None
