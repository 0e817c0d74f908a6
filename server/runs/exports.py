"""A run in open formats: its fixes as CSV, GPX or Parquet, its measures as CSV or JSON."""

from __future__ import annotations

import csv
import io
import json

from django.http import HttpResponse
from django.utils.http import content_disposition_header

from coombe_core.formats import write_log
from coombe_core.timing.results import QUANTITIES
from runs.models import Run, u95_name
from runs.traces import trace_of

TRACE_FORMATS = ("csv", "gpx", "parquet")
MEASURE_FORMATS = ("csv", "json")
MEDIA_TYPES = {
    "csv": "text/csv",
    "gpx": "application/gpx+xml",
    "parquet": "application/vnd.apache.parquet",
    "json": "application/json",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "original": "application/octet-stream",
}
COLUMNS = ("name", "clock", *(column for name in QUANTITIES for column in (name, u95_name(name))))


def trace_as(run: Run, file_format: str) -> bytes:
    """The fixes near a run in one of TRACE_FORMATS."""
    return write_log(trace_of(run), file_format)


def measures_as(run: Run, file_format: str) -> bytes:
    """Every measure of a run on its clocks, SI units in the names."""
    rows = [{column: getattr(row, column) for column in COLUMNS} for row in run.measured.all()]
    if file_format == "json":
        report = {"schema": "coombe.measures/1", "start_utc": run.start_utc.isoformat(), "measures": rows}
        return json.dumps(report, indent=1).encode()
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode()


def file_name(run: Run, what: str, file_format: str) -> str:
    """A name that sorts by time and tells what is inside."""
    return f"{run.start_utc:%Y-%m-%d-%H%M%S}-{run.kind}-{what}.{file_format}"


def as_file(data: bytes, name: str, file_format: str) -> HttpResponse:
    """An answer that a browser saves under a name."""
    answer = HttpResponse(data, content_type=MEDIA_TYPES[file_format])
    answer["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return answer
