"""The fixes of a run as the core reads them."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

from coombe_core.formats.parquet import read_own
from coombe_core.trace import Trace
from runs.models import Run


def trace_of(run: Run) -> Trace:
    """The fixes near a run, on the day and at the time that its log is known to be of."""
    trace = read_own(bytes(run.trace.fixes)).trace
    shift = timedelta(seconds=run.log.clock_shift_s)
    return replace(trace, start_utc=trace.start_utc + shift, date_known=run.log.date_known)
