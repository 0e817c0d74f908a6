"""From a log's bytes to timed runs."""

from __future__ import annotations

import hashlib
import io
import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from typing import TYPE_CHECKING, BinaryIO, Protocol, TypeVar

import numpy as np

from coombe_core.detection.glitches import without_glitches
from coombe_core.detection.runs import FoundRun, find_runs
from coombe_core.fitting.speed_fit import TooFewFixesError
from coombe_core.flags.flag import Flag
from coombe_core.flags.run import Judged, Surroundings, flags_of
from coombe_core.formats import Reading, read_log
from coombe_core.formats.reading import CanError
from coombe_core.physics.course import SurveyedCourse, mean_heading_deg
from coombe_core.physics.wheel_power import WheelPower, wheel_power
from coombe_core.timing.acceleration import time_rolling, time_standing
from coombe_core.timing.braking import time_stop
from coombe_core.timing.corrections import Correction, corrected
from coombe_core.timing.measures import STANDARD_MEASURES, Measure
from coombe_core.timing.results import TimedRun, Untimed
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value

if TYPE_CHECKING:
    from coombe_core.detection.can_data import AlignedCan
    from coombe_core.formats.can_log import CanLog

BEFORE_S, AFTER_S = 5.0, 2.0  # a run's result rests on the fixes from so long before its start to so long after its end

HASHED_BYTES = 1 << 20
Thing = TypeVar("Thing")
Made = TypeVar("Made")


@dataclass(frozen=True)
class Request:
    """What to time beyond the standard measures, and what is known beside the log.

    The surveyed course, what to correct and in which air, the car's stated power in watts, its CAN log, what the
    headings of a table mean, and over which time constant the receiver smooths its speed.
    """

    measures: Sequence[Measure] = ()
    surveyed: SurveyedCourse | None = None
    correction: Correction = field(default_factory=Correction)
    stated_power_w: float | None = None
    can_log: CanLog | None = None
    layout: Mapping[str, str] | None = None
    smoothing_s: Value | None = None

    @cached_property
    def all_measures(self) -> list[Measure]:
        """The standard measures and those named, each once."""
        return list({measure.name: measure for measure in (*STANDARD_MEASURES, *self.measures)}.values())


class Each(Protocol):
    """How something is done to each of several things: `map`, or in processes."""

    def __call__(self, act: Callable[[Thing], Made], things: Iterable[Thing], /) -> Iterable[Made]:
        """What is made of each, in order."""


@dataclass(frozen=True)
class AnalyzedRun(TimedRun):
    """A timed run with its wheel power, where the car's mass is known, and its flags."""

    wheel_power: WheelPower | None = None
    flags: list[Flag] = field(default_factory=list)

    @classmethod
    def of(cls, run: TimedRun, power: WheelPower | None, flags: list[Flag]) -> AnalyzedRun:
        """A timed run with what the later steps found."""
        return cls(**{each.name: getattr(run, each.name) for each in fields(run)}, wheel_power=power, flags=flags)

    def counts(self, measure: Measure) -> bool:
        """Whether the run may stand in a comparison of a measure.

        It is complete, no flag proposes to void it, and none keeps it out of measures from rest.
        """
        barred = any(f.severity == "void" or (f.excludes and measure.from_rest) for f in self.flags)
        return self.complete and not barred


@dataclass(frozen=True)
class Analysis:
    """A log, read and timed; `sha256` is of its bytes, `can_data` its CAN data on the receiver's clock.

    `untimed` are runs that were found and could not be timed.
    """

    sha256: str
    reading: Reading
    runs: list[AnalyzedRun]
    can_data: AlignedCan | None = None
    untimed: list[Untimed] = field(default_factory=list)


def analyse_log(log: bytes | BinaryIO, request: Request | None = None, each: Each = map) -> Analysis:
    """Read a log, find its runs and time each of them.

    Parameters
    ----------
    log : bytes or binary file
        The log, or a file on disk open in binary mode.
    request : Request, optional
        What to time and correct, and what is known beside the log.
    each : callable
        How several runs are timed: `map`, or in processes.

    Returns
    -------
    Analysis

    Raises
    ------
    ReadError
        Where the log cannot be read; its text is a sentence.
    CanError
        Where the CAN log that goes with it shows another drive.
    """
    request = request or Request()
    with ThreadPoolExecutor(1) as beside:
        digest = beside.submit(_sha256, log)
        reading = read_log(io.BytesIO(log) if isinstance(log, bytes) else log, request.layout)
        sha256 = digest.result()
    can_data = _aligned(request.can_log, reading.trace) if request.can_log else None
    runs, untimed = time_all(reading.trace, request, can_data, each)
    return Analysis(sha256, reading, runs, can_data, untimed)


def _sha256(log: bytes | BinaryIO) -> str:
    """Of the whole log, beside its reading: a file is read from its own place, which moves nothing of the stream."""
    if isinstance(log, bytes):
        return hashlib.sha256(log).hexdigest()
    digest, at = hashlib.sha256(), 0
    while piece := os.pread(log.fileno(), HASHED_BYTES, at):
        digest.update(piece)
        at += len(piece)
    return digest.hexdigest()


def _aligned(can_log: CanLog, trace: Trace) -> AlignedCan:
    from coombe_core.detection.can_data import NoMatchError, align

    try:
        return align(can_log, trace)
    except NoMatchError as error:
        raise CanError(str(error)) from None


def time_runs(
    trace: Trace, request: Request, can_data: AlignedCan | None = None, each: Each = map
) -> list[AnalyzedRun]:
    """Time every run of a trace, in the order of time; those that can't be timed are left out."""
    return time_all(trace, request, can_data, each)[0]


def time_all(
    trace: Trace, request: Request, can_data: AlignedCan | None = None, each: Each = map
) -> tuple[list[AnalyzedRun], list[Untimed]]:
    """Time every run of a trace, in the order of time.

    Parameters
    ----------
    trace : Trace
    request : Request
    can_data : AlignedCan, optional
        CAN data on the trace's time axis.
    each : callable
        How several runs are timed: `map`, or in processes.

    Returns
    -------
    (list of AnalyzedRun, list of Untimed)
        Those that were timed, and those that could not be.
    """
    given = list(each(lambda found: time_found(trace, found, request, can_data), find_runs(trace)))
    return [run for run in given if isinstance(run, AnalyzedRun)], [run for run in given if isinstance(run, Untimed)]


def time_found(
    trace: Trace, found: FoundRun, request: Request, can_data: AlignedCan | None = None
) -> AnalyzedRun | Untimed:
    """Time one run that was found, from the fixes near it alone.

    Parameters
    ----------
    trace : Trace
        The fixes of the log, or enough of them around the run.
    found : FoundRun
        Where the run is, as detection found it.
    request : Request
    can_data : AlignedCan, optional
        CAN data on the trace's time axis.

    Returns
    -------
    AnalyzedRun or Untimed
        The run, or why it could not be timed.
    """
    near, left_out = without_glitches(trace.between(found.start_s - BEFORE_S, found.end_s + AFTER_S))
    near = replace(near, smoothing_s=request.smoothing_s)
    driven = near.between(found.start_s, found.end_s)
    slope = request.surveyed.slope_along(driven) if request.surveyed else None
    try:
        if found.kind == "stop":
            pedal_s = can_data.brake_pedal_s(found.start_s) if can_data else None
            run = time_stop(near, found, request.all_measures, slope, pedal_s)
        else:
            time = time_standing if found.kind == "standing" else time_rolling
            run = time(near, found, request.all_measures, slope)
    except TooFewFixesError:
        return Untimed(found.kind, found.start_s, "too few fixes")
    except (np.linalg.LinAlgError, FloatingPointError):
        return Untimed(found.kind, found.start_s, "fit failed")
    if not np.isfinite([run.start_s, run.end_s, *run.curve.speed_mps]).all():
        return Untimed(found.kind, found.start_s, "no number")
    run = replace(run, complete=_is_complete(run, found, request))
    profile = request.surveyed.profile_along(driven) if request.surveyed else None
    run = corrected(run, request.correction, mean_heading_deg(driven), profile)
    power = _wheel_power(run, request.correction, mean_heading_deg(driven))
    return AnalyzedRun.of(run, power, flags_of(_judged(near, left_out, found, run, power, request, can_data)))


def _wheel_power(run: TimedRun, known: Correction, heading_deg: float | None) -> WheelPower | None:
    """Wheel power of a pull; None without the car's mass."""
    if known.road_load is None or run.kind == "stop":
        return None
    slope = run.slope_percent.value if run.slope_percent else 0.0
    head_wind_mps = 0.0 if heading_deg is None else known.air.head_wind_mps(heading_deg)
    return wheel_power(run.curve, known.road_load, slope, known.air.density_kg_m3, head_wind_mps)


def _is_complete(run: TimedRun, found: FoundRun, request: Request) -> bool:
    """Whether a pull kept on to the targets that were asked for; with none asked, what the finder says (60 mph)."""
    asked = [measure for measure in request.measures if measure.basis != "stop"]
    if run.kind == "stop" or not asked:
        return found.complete
    until_s = (found.eased_s or found.end_s) - run.start_s
    return found.full_power and all(_reached_by(run, measure, until_s) for measure in asked)


def _reached_by(run: TimedRun, measure: Measure, until_s: float) -> bool:
    """Whether the measure's end was reached before a time since the run's start."""
    if not any(row.name == measure.name for row in run.measures):
        return False
    levels, level = (run.curve.distance_m, measure.to_m) if measure.to_m else (run.curve.speed_mps, measure.to_mps)
    past = levels >= level
    return not past.any() or float(run.curve.since_s[int(np.argmax(past))]) <= until_s


def _judged(
    near: Trace,
    left_out: int,
    found: FoundRun,
    run: TimedRun,
    power: WheelPower | None,
    request: Request,
    can_data: AlignedCan | None,
) -> Judged:
    driven = near.between(found.start_s, found.end_s)
    heading = mean_heading_deg(driven)
    around = Surroundings(
        slope=run.slope_percent,
        head_wind_mps=None if heading is None else request.correction.air.head_wind_mps(heading),
        asked_from_rest=any(measure.from_rest for measure in request.measures),
        stated_power_w=request.stated_power_w,
        wheel_slip=can_data.wheel_slip(near, run.start_s) if can_data else None,
    )
    peak_w = power.peak_w if power else None
    return Judged(near, driven, left_out, found, run, peak_w, around)
