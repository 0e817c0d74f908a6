"""A study in open formats: its runs as CSV, all of it as JSON."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder

MEDIA_TYPES = {"csv": "text/csv", "json": "application/json"}
COLUMNS = ("series", "run", "start_utc", "setup", "value", "u95", "unit", "dropped")


def as_json(study: dict[str, Any]) -> bytes:
    """The study as the API shows it."""
    return json.dumps({"schema": "coombe.study/1", **study}, cls=DjangoJSONEncoder, indent=1).encode()


def as_csv(study: dict[str, Any]) -> bytes:
    """One row a run; SI units. Of laps, which have no runs, the rows of their table."""
    out = io.StringIO()
    writer = csv.writer(out)
    result = study["result"]
    if not result["runs"]:
        for table in result["tables"]:
            writer.writerow(
                [f"{axis['label']} ({axis['unit']})" if axis["unit"] else axis["label"] for axis in table["columns"]]
            )
            writer.writerows(
                [cell["text"] if cell["value"] is None else cell["value"] for cell in row] for row in table["rows"]
            )
        return out.getvalue().encode()
    unit = "m" if study["measure"] and study["clock"] == "speed" and "-0 " in study["measure"] else "s"
    names = [row["name"] for row in study["series"]]
    writer.writerow(COLUMNS)
    for row in result["runs"]:
        facts = (names[row["series"]], row["id"], row["start_utc"], row["setup_name"], row["value"], row["u95"], unit)
        writer.writerow([*facts, row["dropped"]])
    return out.getvalue().encode()
