"""From a log's bytes to timed runs."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import BinaryIO

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

BEFORE_S, AFTER_S = 5.0, 2.0  # a run's result rests on the fixes from so long before its start to so long after its end


@dataclass(frozen=True)
class Request:
    """What to time beyond the standard measures, the surveyed course, and what to correct."""

    measures: Sequence[Measure] = ()
    surveyed: SurveyedCourse | None = None
    correction: Correction = field(default_factory=Correction)

    @cached_property
    def all_measures(self) -> list[Measure]:
        """The standard measures and those named, each once."""
        return list({measure.name: measure for measure in (*STANDARD_MEASURES, *self.measures)}.values())


@dataclass(frozen=True)
class Analysis:
    """A log, read and timed; `sha256` is of its bytes."""

    sha256: str
    reading: Reading
    runs: list[TimedRun]


def analyse_log(log: bytes | BinaryIO, request: Request | None = None) -> Analysis:
    """Read a log (bytes, or a file open in binary mode), find its runs and time them.

    Raises ReadError where it cannot be read.
    """
    stream = io.BytesIO(log) if isinstance(log, bytes) else log
    sha256 = hashlib.file_digest(stream, "sha256").hexdigest()  # type: ignore[arg-type]
    stream.seek(0)
    reading = read_log(stream)
    return Analysis(sha256, reading, time_runs(reading.trace, request or Request()))


def time_runs(trace: Trace, request: Request) -> list[TimedRun]:
    """Every run of the trace that has enough fixes to be timed, in the order of time."""
    timed = (_timed(trace, found, request) for found in find_runs(trace))
    return [run for run in timed if run]


def _timed(trace: Trace, found: FoundRun, request: Request) -> TimedRun | None:
    try:
        near = trace.between(found.start_s - BEFORE_S, found.end_s + AFTER_S)
        slope = request.surveyed.slope_along(near.between(found.start_s, found.end_s)) if request.surveyed else None
        if found.kind == "stop":
            return time_stop(near, found, request.all_measures, slope)
        run = time_standing(near, found, request.all_measures, slope)
        return corrected(run, request.correction)
    except (TooFewFixesError, np.linalg.LinAlgError):
        return None
