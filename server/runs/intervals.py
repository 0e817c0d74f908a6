"""Intervals that a person names, beside the standard ones: timed from the fixes that are kept with a run."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from coombe_core.analysis import time_runs
from coombe_core.timing.measures import STANDARD_MEASURES, Measure, parse_measure, time_on
from coombe_core.timing.results import Measured as CoreMeasured
from runs.curves import decoded
from runs.models import Measured, Run, RunKind, RunTrace
from runs.storing import request_of
from runs.traces import trace_of

STANDARD = {measure.name for measure in STANDARD_MEASURES}


def time_named(run: Run, name: str) -> list[CoreMeasured]:
    """Any interval that a person names; empty where the run did not reach it.

    Raises ValueError with a sentence where there is no such measure.
    """
    measure = parse_measure(name)
    trace = trace_of(run)
    log_s = (run.start_utc - trace.start_utc).total_seconds()
    request = replace(request_of(run), measures=[measure])
    timed = [each for each in time_runs(trace, request) if each.kind == run.kind]
    nearest = min(timed, key=lambda each: abs(each.start_s - log_s), default=None)
    return [row for row in nearest.measures if row.name == measure.name] if nearest else []


def have(runs: Collection[int], measure: Measure) -> None:
    """See to it that every one of some runs that reached an interval has it among its measures.

    Standard ones are there already. Others are timed once and kept until the run is timed again.
    """
    if measure.name in STANDARD:
        return
    kind = RunKind.STOP if measure.basis == "stop" else RunKind.STANDING if measure.from_rest else RunKind.ROLLING
    lacking = Run.objects.filter(pk__in=runs, kind=kind).exclude(measured__name=measure.name)
    wanted = {run.pk: run for run in lacking.select_related("setup__car", "course", "log", "trace")}
    for run in RunTrace.objects.filter(run__in=wanted).only("run_id", "curve"):
        curve = decoded(bytes(run.curve))
        if measure.basis == "stop" or time_on(curve, measure, measure.clocks[-1]) is not None:
            rows = [Measured.of(wanted[run.run_id], row) for row in time_named(wanted[run.run_id], measure.name)]
            Measured.objects.bulk_create(rows, ignore_conflicts=True)
