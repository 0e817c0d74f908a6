"""A run in open formats: its fixes as CSV, GPX or Parquet, its measures as CSV or JSON."""

from __future__ import annotations

import csv
import io
import json

from coombe_core.formats import write_log
from coombe_core.formats.parquet import read_own
from coombe_core.timing.results import QUANTITIES
from runs.models import Run, u95_name

TRACE_FORMATS = ("csv", "gpx", "parquet")
MEASURE_FORMATS = ("csv", "json")
MEDIA_TYPES = {
    "csv": "text/csv",
    "gpx": "application/gpx+xml",
    "parquet": "application/vnd.apache.parquet",
    "json": "application/json",
}
COLUMNS = ("name", "clock", *(column for name in QUANTITIES for column in (name, u95_name(name))))


def trace_as(run: Run, file_format: str) -> bytes:
    """The fixes near a run in one of TRACE_FORMATS."""
    return write_log(read_own(bytes(run.trace.fixes)).trace, file_format)


def measures_as(run: Run, file_format: str) -> bytes:
    """Every measure of a run on its clocks, SI units in the names."""
    rows = [{column: getattr(row, column) for column in COLUMNS} for row in run.measured.all()]
    if file_format == "json":
        told = {"schema": "coombe.measures/1", "start_utc": run.start_utc.isoformat(), "measures": rows}
        return json.dumps(told, indent=1).encode()
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode()


def file_name(run: Run, what: str, file_format: str) -> str:
    """A name that sorts by time and tells what is inside."""
    return f"{run.start_utc:%Y-%m-%d-%H%M%S}-{run.kind}-{what}.{file_format}"
