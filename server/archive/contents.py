"""What an archive holds: the one place that knows.

People are names alone. Left at home is what belongs to one installation: accounts, access tokens, links to
reports, the security log, devices and recorders, imports that wait, and the trash.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from django.db import models
from django.db.models import Q

from cars.models import BatteryInterval, BatteryReading, Car, ChargePoint, ManufacturerClaim, Setup
from comparisons.models import Comparison, Member
from comparisons.models import Group as ComparedGroup
from courses.models import Course, Station
from days.models import ChecklistItem, ScheduledRun, TestDay
from history.models import Action, Change
from plans.models import Group, Plan
from recording.models import Gap, Recording
from reports.models import Report, Version
from runs.models import (
    Attachment,
    CanLog,
    Flag,
    Log,
    Measured,
    Receiver,
    Rejection,
    Run,
    RunTrace,
    Split,
    TableColumn,
    TableLayout,
    UntimedRun,
)
from studies.models import LeftOut, OwnMeasure, OwnValue, Series, Study, TableView

Model = type[models.Model]
AnyField = models.Field[Any, Any]


ALL = Q()


@dataclass(frozen=True)
class Kept:
    """A model of which an archive holds rows.

    `key` are the fields by which a row here is known to be the same as one there; `parts` are models whose rows belong
    to a row of it, each with the way to that row; `of_car` chooses what belongs to a car.
    """

    model: Model
    key: tuple[str, ...]
    of_car: Callable[[Car], Q]
    parts: Mapping[Model, str]
    everything: Q = ALL


def _none(car: Car) -> Q:
    return Q(pk__in=[])


def _only_of(car: Car, part: Model, of_car: str, owner: str) -> Q:
    """What has parts of a car's, and none of another's."""
    rows = part._base_manager
    return Q(pk__in=rows.filter(**{of_car: car}).values(owner)) & ~Q(pk__in=rows.exclude(**{of_car: car}).values(owner))


# In an order in which no row refers to a later one.
KEPT = (
    Kept(Receiver, ("name",), lambda car: Q(name__in=Run.objects.filter(setup__car=car).values("receiver")), {}),
    Kept(TableLayout, ("headings_sha256",), _none, {TableColumn: "layout"}),
    Kept(Car, ("name",), lambda car: Q(pk=car.pk), {ManufacturerClaim: "car", ChargePoint: "car"}),
    Kept(BatteryInterval, ("car", "began_at"), lambda car: Q(car=car), {BatteryReading: "interval"}),
    Kept(Setup, ("car", "name"), lambda car: Q(car=car), {}),
    Kept(
        Course,
        ("name", "direction"),
        lambda car: Q(pk__in=Run.objects.filter(setup__car=car).values("course")) | Q(plans__car=car),
        {Station: "course"},
    ),
    Kept(
        Log,
        ("sha256",),
        lambda car: Q(runs__setup__car=car),
        {CanLog: "log", Rejection: "log", UntimedRun: "log"},
        Q(sha256__isnull=False),
    ),
    Kept(
        Run,
        ("log", "start_s"),
        lambda car: Q(setup__car=car),
        {RunTrace: "run", Flag: "run", Measured: "run", Split: "run", Attachment: "run"},
        Q(log__sha256__isnull=False),
    ),
    Kept(Plan, ("question", "created_at"), lambda car: Q(car=car), {Group: "plan"}),
    Kept(TestDay, ("plan", "part"), lambda car: Q(plan__car=car), {ScheduledRun: "day", ChecklistItem: "day"}),
    Kept(
        Recording,
        ("spool",),
        lambda car: Q(log__runs__setup__car=car),
        {Gap: "recording"},
        Q(log__sha256__isnull=False, stored_at__isnull=False),
    ),
    Kept(
        Comparison,
        ("title", "created_at"),
        lambda car: _only_of(car, Member, "run__setup__car", "group__comparison"),
        {ComparedGroup: "comparison", Member: "group__comparison"},
    ),
    Kept(
        Study,
        ("title", "created_at"),
        lambda car: (
            _only_of(car, Series, "car", "study")
            | Q(pk__in=Study.objects.filter(log__runs__setup__car=car).values("pk"))
        ),
        {Series: "study", LeftOut: "study"},
    ),
    Kept(OwnMeasure, ("name",), lambda car: Q(values__setup__car=car), {}),
    Kept(OwnValue, ("measure", "setup", "day", "value", "run"), lambda car: Q(setup__car=car), {}),
    Kept(TableView, ("name",), _none, {}),
    Kept(Report, ("title", "created_at"), lambda car: Q(pk__in=_reports_of(car)), {Version: "report"}),
    Kept(Action, ("title", "done_at"), _none, {Change: "action"}),
)
MODELS = tuple(each for kept in KEPT for each in (kept.model, *kept.parts))
# Columns that belong to one installation; they take their defaults in another.
AT_HOME = {(Run, "rests_on"), (Recording, "recorder")}
# What a part of a report shows, by its kind.
SHOWN: Mapping[str, Model] = {"comparison": Comparison, "study": Study, "slip": Run}


@cache
def columns(model: Model) -> tuple[AnyField, ...]:
    """The fields of a model that an archive has, the number first."""
    return tuple(field for field in model._meta.concrete_fields if (model, field.name) not in AT_HOME)


@cache
def files_of(model: Model) -> tuple[str, ...]:
    """The columns that hold hashes of files in the store."""
    return tuple(getattr(model, "STORED", {}))


def table_of(model: Model) -> str:
    """The name of its table."""
    return str(model._meta.label_lower)


def _reports_of(car: Car) -> list[int]:
    """The reports that show nothing but what belongs to a car."""
    there = {
        kind: set(kept.model._base_manager.filter(kept.of_car(car)).values_list("pk", flat=True))
        for kind, model in SHOWN.items()
        for kept in KEPT
        if kept.model is model
    }
    return [
        report.pk
        for report in Report.objects.all()
        if report.parts and all(_is_of(part, there) for part in report.parts)
    ]


def _is_of(part: Mapping[str, Any], there: Mapping[str, set[int]]) -> bool:
    return part["kind"] == "text" or part["id"] in there.get(part["kind"], ())
