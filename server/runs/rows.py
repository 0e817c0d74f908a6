"""Rows of the lists of runs and logs, read as plain values in a few queries: a page has thousands of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from typing import Any

from django.db.models import F

from config.columns import PlainRow
from config.fields import shown_local
from courses.zones import local
from runs.models import CanLog, Flag, Log, Measured, Rejection, Run, UntimedRun, may_count
from runs.serializers import (
    HEADLINES,
    CanLogSerializer,
    FlagSerializer,
    HeadlineSerializer,
    RejectionSerializer,
    RunRowSerializer,
    UntimedSerializer,
    names_of_setups,
)

RUN_COLUMNS = [field.name for field in Run._meta.concrete_fields if field.name not in RunRowSerializer.Meta.exclude]
OF_OTHERS = {
    "car": F("setup__car_id"),
    "car_name": F("setup__car__name"),
    "setup_name": F("setup__name"),
    "course_name": F("course__name"),
    "time_zone": F("course__time_zone"),
    "log_name": F("log__name"),
    "rate_hz": F("log__rate_hz"),
    "date_known": F("log__date_known"),
}
LOG_COLUMNS = [field.name for field in Log._meta.concrete_fields if field.name != "imported_by"]


def run_rows(keys: Collection[int]) -> Mapping[int, PlainRow]:
    """Runs as `RunRowSerializer` describes them, by their numbers."""
    flags = _by("run", Flag.objects.filter(run__in=keys), FlagSerializer.Meta.fields)
    measured = Measured.objects.filter(run__in=keys, name__in=HEADLINES).order_by("id")
    headlines = _by("run", measured, HeadlineSerializer.Meta.fields)
    rows = Run.objects.filter(pk__in=keys).order_by().values(*RUN_COLUMNS, **OF_OTHERS)
    return {row["id"]: _run_row(row, flags[row["id"]], headlines[row["id"]]) for row in rows}


def _run_row(row: dict[str, Any], flags: list[PlainRow], headlines: list[PlainRow]) -> PlainRow:
    row["start_local"] = shown_local(local(row["start_utc"], row.pop("time_zone")))
    row["course_name"] = row["course_name"] or ""
    severities = [flag["severity"] for flag in flags]
    row["counts"] = may_count(row.pop("date_known"), row["complete"], row["validity"], row["decided"], severities)
    return PlainRow(row, flags=flags, headlines=headlines)


def log_rows(keys: Collection[int]) -> Mapping[int, PlainRow]:
    """Logs as `LogSerializer` describes them, by their numbers."""
    driven = Log.driven_in(keys)
    rejections = _by("log", Rejection.objects.filter(log__in=keys), RejectionSerializer.Meta.fields)
    untimed = _by("log", UntimedRun.objects.filter(log__in=keys), UntimedSerializer.Meta.fields)
    can_logs = _by("log", CanLog.objects.filter(log__in=keys), CanLogSerializer.Meta.fields)
    rows = Log.objects.filter(pk__in=keys).order_by()
    found = {}
    for row in rows.values(*LOG_COLUMNS, imported=F("imported_by__username")):
        key = row["id"]
        zone = next((run.time_zone for run in driven[key] if run.time_zone), None)
        found[key] = PlainRow(
            row,
            imported_by=row.pop("imported"),
            start_local=shown_local(local(row["start_utc"], zone)),
            rejections=rejections[key],
            untimed=untimed[key],
            can_log=next(iter(can_logs[key]), None),
            run_ids=[run.run for run in driven[key]],
            setup_names=names_of_setups(driven[key]),
        )
    return found


def _by(owner: str, rows: Any, names: Iterable[str]) -> Mapping[int, list[PlainRow]]:
    """The rows of a query that belong to each owner."""
    found: Mapping[int, list[PlainRow]] = defaultdict(list)
    for owned_by, *values in rows.values_list(owner, *names):
        found[owned_by].append(PlainRow(zip(names, values, strict=True)))
    return found
