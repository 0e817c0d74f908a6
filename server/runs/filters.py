"""Filtering and sorting the table of runs."""

from __future__ import annotations

from datetime import date, timedelta

import django_filters
from django.core.exceptions import ValidationError
from django.db.models import F, FilteredRelation, OrderBy, Q, QuerySet

from coombe_core.timing.measures import parse_measure
from courses.models import Course
from courses.zones import midnight
from runs.filling import missing
from runs.models import ClockName, Log, Measured, Run

COLUMNS = (
    *("start_utc", "charge_before_percent", "battery_temp_before_c", "outside_temp_c", "slope_percent", "drive_mode"),
    *("peak_acceleration_g", "direction", "validity", "kind", "setup__name", "setup__car__name"),
)


def known_order(value: str) -> None:
    """Raises ValidationError where rows can't be sorted by it."""
    column, bar, clock = value.removeprefix("-").partition("|")
    if column not in COLUMNS and not bar:
        raise ValidationError(f"Runs can't be sorted by {column}. Name one of {', '.join(COLUMNS)}, or measure|clock.")
    if bar:
        if clock not in ClockName.values:
            raise ValidationError(f"There is no clock {clock}: {', '.join(ClockName.values)}.")
        try:
            parse_measure(column)
        except ValueError as error:
            raise ValidationError(str(error)) from None


class ByMeasure(QuerySet[Run]):
    """All runs in the order of a measure's time as its index holds it, those without it last; for lists of keys."""

    by: tuple[str, str, bool]

    @classmethod
    def of(cls, runs: QuerySet[Run], measure: str, clock: str, reverse: bool) -> ByMeasure:
        """All runs, by a measure on a clock."""
        made = cls(runs.model)
        made.by = (measure, clock, reverse)
        return made

    def keys(self, start: int, stop: int) -> list[int]:
        """The keys from one place to another."""
        measure, clock, reverse = self.by
        rows = Measured.objects.filter(name=measure, clock=clock, time_s__isnull=False)
        timed = rows.order_by("-time_s", "-id") if reverse else rows.order_by("time_s", "id")
        found = list(timed.values_list("run_id", flat=True)[start:stop])
        if len(found) == stop - start:
            return found
        count = rows.count()
        rest = Run.objects.exclude(pk__in=rows.values("run_id")).order_by("-start_utc", "-id")
        return found + list(rest.values_list("pk", flat=True)[max(start - count, 0) : max(stop - count, 0)])


def within_days(first: date | None, last: date | None) -> Q:
    """Runs from the first day to the end of the last, each by the clock at its own course."""
    zones = [None, *Course.objects.order_by().values_list("time_zone", flat=True).distinct()]
    found = Q()
    for zone in zones:
        here = Q(course__isnull=True) if zone is None else Q(course__time_zone=zone)
        if first:
            here &= Q(start_utc__gte=midnight(first, zone))
        if last:
            here &= Q(start_utc__lt=midnight(last + timedelta(days=1), zone))
        found |= here
    return found


class NumbersFilter(django_filters.BaseInFilter, django_filters.NumberFilter):
    """Several numbers, apart by commas."""


class RunFilter(django_filters.FilterSet):
    """Runs by car, setup, day, kind, validity, mode, direction, log, and charge band."""

    car = django_filters.NumberFilter(field_name="setup__car")
    day = django_filters.DateFilter(method="on_day", help_text="by the clock at the course")
    from_day = django_filters.DateFilter(method="from_the_day", help_text="by the clock at the course")
    to_day = django_filters.DateFilter(method="to_the_day", help_text="by the clock at the course")
    charge_from = django_filters.NumberFilter(field_name="charge_before_percent", lookup_expr="gte")
    charge_to = django_filters.NumberFilter(field_name="charge_before_percent", lookup_expr="lte")
    gaps = django_filters.BooleanFilter(method="with_gaps", help_text="pulls without charge or battery temperature")
    ids = NumbersFilter(field_name="id")
    sort = django_filters.CharFilter(
        method="sorted_by",
        validators=[known_order],
        help_text="a column, or measure|clock such as 0-60 mph|rollout; a leading - reverses",
    )

    class Meta:
        model = Run
        fields = ["setup", "kind", "validity", "complete", "drive_mode", "direction", "log"]

    def on_day(self, runs: QuerySet[Run], name: str, value: date) -> QuerySet[Run]:
        """Those of one day."""
        return runs.filter(within_days(value, value))

    def from_the_day(self, runs: QuerySet[Run], name: str, value: date) -> QuerySet[Run]:
        """Those of a day or later."""
        return runs.filter(within_days(value, None))

    def to_the_day(self, runs: QuerySet[Run], name: str, value: date) -> QuerySet[Run]:
        """Those of a day or earlier."""
        return runs.filter(within_days(None, value))

    def with_gaps(self, runs: QuerySet[Run], name: str, value: bool) -> QuerySet[Run]:
        """Those that were not recorded in full."""
        return missing(runs) if value else runs

    def sorted_by(self, runs: QuerySet[Run], name: str, value: str) -> QuerySet[Run]:
        """Order by a column or by a measure's time; runs without the value come last."""
        column, reverse = value.removeprefix("-"), value.startswith("-")
        if "|" in column:
            measure, clock = column.split("|", 1)
            if not runs.query.where:
                return ByMeasure.of(runs, measure, clock, reverse)
            row = FilteredRelation("measured", condition=Q(measured__name=measure, measured__clock=clock))
            runs, column = runs.annotate(sorting=row), "sorting__time_s"
        expression = F(column)
        key: OrderBy = expression.desc(nulls_last=True) if reverse else expression.asc(nulls_last=True)
        return runs.order_by(key, "-start_utc", "-id")


class LogFilter(django_filters.FilterSet):
    """Logs by car, setup, name, and whether their date is known."""

    car = django_filters.NumberFilter(method="with_runs", help_text="with runs of this car")
    setup = django_filters.NumberFilter(method="with_runs", help_text="with runs on this setup")
    name = django_filters.CharFilter(lookup_expr="icontains")

    class Meta:
        model = Log
        fields = ("car", "setup", "name", "date_known")

    def with_runs(self, logs: QuerySet[Log], name: str, value: int) -> QuerySet[Log]:
        """Logs with a run that fits."""
        field = {"car": "setup__car", "setup": "setup"}[name]
        return logs.filter(pk__in=Run.objects.filter(**{field: value}).values("log"))
