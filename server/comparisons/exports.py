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
    *("arm", "run", "start_utc", "set_up", "direction", "charge_before_percent", "pack_temp_before_c"),
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
        name = result["arms"][row["arm"]]["name"]
        told = {"arm": name, "run": row["id"], "set_up": row["set_up_name"], "unit": unit}
        writer.writerow(told | {column: row[column] for column in COLUMNS if column in row and column not in told})
    return out.getvalue().encode()
