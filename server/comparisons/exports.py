"""A comparison in open formats: its runs as CSV, all of it as JSON."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder

MEDIA_TYPES = {"csv": "text/csv", "json": "application/json"}
COLUMNS = (
    *("group", "run", "start_utc", "setup", "direction", "charge_before_percent", "battery_temp_before_c"),
    *("value", "u95", "unit", "dropped"),
)


def as_json(title: str, result: Mapping[str, Any]) -> bytes:
    """The result as it stands, with its title."""
    return json.dumps({"title": title, **result}, cls=DjangoJSONEncoder, indent=1).encode()


def as_csv(title: str, result: Mapping[str, Any]) -> bytes:
    """One row a run or typed value; SI units."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    unit = result["pairs"][0]["unit"]
    for row in result["runs"]:
        name = result["groups"][row["group"]]["name"]
        report = {"group": name, "run": row["id"], "setup": row["setup_name"], "unit": unit}
        writer.writerow(report | {column: row[column] for column in COLUMNS if column in row and column not in report})
    return out.getvalue().encode()
