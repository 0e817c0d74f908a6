"""Puts the invented season into an empty database, through the same services that a tester uses."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from itertools import accumulate
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from accounts.models import Role, User
from cars.models import Car, Setup
from comparisons.models import Comparison
from comparisons.serializers import ComparisonSerializer
from coombe_core.analysis import AnalyzedRun
from courses.models import Course, Station
from demo import planning, season, tried
from reports.models import Report
from reports.publishing import publish
from runs import resting
from runs.can_logs import CanUpload
from runs.models import Log, Measured, Receiver, Run, RunKind, VoidReason
from runs.retiming import retime_stale
from runs.services import import_log, void_run
from studies.models import Better, OwnMeasure, OwnValue, Study, TableView
from studies.serializers import StudySerializer

PASSWORD = "measured-twice"  # for the demo's people only, on loopback
PEOPLE = {"admin": Role.ADMINISTRATOR, "tester": Role.TESTER, "reader": Role.READER}
VOIDED = {
    "2026-04-18": (VoidReason.TRAFFIC, "a tractor crossed at the far end"),
    "2026-05-23": (VoidReason.SPUN, "gravel at the line"),
    "2026-07-11": (VoidReason.JUMPED, "rolled before the count"),
}
COMPARISONS = (
    ("Did update 7.2 change 0-60?", "Delivered, 7.1", "Software 7.2", "0-60 mph"),
    ("Did 7.2.1 change anything?", "Software 7.2", "Software 7.2.1", "0-60 mph"),
    ("Do the smooth covers help?", "Delivered", "Smooth covers", "0-60 mph"),
)

VIEWS = (
    (
        "Sprints",
        ["drive_layout", "mass_per_power_kg_per_kw", "0-60 mph|rollout", "60 ft|rollout", "claim"],
        "0-60 mph|rollout",
    ),
    ("Stops by tire", ["tires", "test_mass_kg", "60-0 mph|speed", "100-0 km/h|speed"], "60-0 mph|speed"),
)


@transaction.atomic
def load() -> str:
    """Fill an empty database; says what is there now."""
    for name, role in PEOPLE.items():
        if not User.objects.filter(username=name).exists():
            User.objects.create_user(name, password=PASSWORD, role=role)
    if not Car.objects.exists():
        tester = User.objects.get(username="tester")
        out = _courses()["out"]
        setups = _setups()
        for name, firmware, source in tried.RECEIVERS:
            Receiver.objects.create(name=name, firmware=firmware, smoothing_s=0.0, source=source)
        for log in season.logs():
            _import(log, setups[log.outing.setup], out, tester)
        for tried_log in tried.logs():
            _import_tried(tried_log, setups[tried_log.setup], out, tester)
        _void(tester)
        planning.load(tester, out)
        resting.look(Run.objects.all())
        retime_stale()  # those of a plan, which came after them
        _compare(tester, setups)
        _study(tester, setups)
        _report(tester)
    return f"{Car.objects.count()} cars, {Setup.objects.count()} setups, {Run.objects.count()} runs. Log in as " + (
        f"{', '.join(PEOPLE)}; the password of each is {PASSWORD}"
    )


def _courses() -> dict[str, Course]:
    ways = {"out": (season.HEADING_DEG, 1), "back": (season.HEADING_DEG + 180, -1)}
    courses = {
        way: Course.objects.create(
            name=season.COURSE,
            direction=way,
            heading_deg=heading,
            length_m=1400,
            runout_m=300,
            slope_percent=season.SLOPE_OUT_PERCENT * sign,
            slope_u95_percent=0.05,
            elevation_m=120,
            time_zone="Europe/London",
            access="key at the lodge; ring before the gate is locked at dusk",
            permission="closed airstrip, the owner's written leave for 2026",
        )
        for way, (heading, sign) in ways.items()
    }
    for way, course in courses.items():
        rise = season.SLOPE_OUT_PERCENT / 100.0 * ways[way][1]
        Station.objects.bulk_create(
            Station(course=course, distance_m=meters, elevation_m=round(120 + rise * meters, 2))
            for meters in range(0, 1401, 100)
        )
    return courses


def _setups() -> dict[str, Setup]:
    cars = {name: Car.objects.create(name=name, **facts) for name, facts in (season.CARS | tried.CARS).items()}
    return {
        made.name: Setup.objects.create(car=cars[made.car], name=made.name, since=made.since, **made.written)
        for made in (*season.SETUPS, *tried.SETUPS)
    }


def _import(log: season.DemoLog, setup: Setup, out: Course, tester: User) -> None:
    """Import one log with the conditions of each way on its runs; a stop shares those of the run before it."""

    def noted(runs: Sequence[AnalyzedRun]) -> list[dict[str, Any]]:
        ways = accumulate((run.kind == "standing" for run in runs), initial=-1)
        return [log.conditions[min(max(way, 0), len(log.conditions) - 1)] for way in list(ways)[1:]]

    can_log = CanUpload(f"{Path(log.name).stem}-can.log", log.can_log) if log.can_log else None
    shared = {"course": out, "receiver": season.RECEIVER, "wind_mps": log.outing.wind_mps}
    shared |= {"wind_from_deg": season.HEADING_DEG}
    import_log(log.name, log.data, setup, tester, shared, can_log=can_log, noted=noted)


def _import_tried(log: tried.TriedLog, setup: Setup, out: Course, tester: User) -> None:
    can_log = CanUpload(f"{Path(log.name).stem}-can.log", log.can_log) if log.can_log else None
    import_log(log.name, log.data, setup, tester, {"course": out} | log.conditions, can_log=can_log)


def _study(tester: User, setups: dict[str, Setup]) -> None:
    for title, kind, measure, clock, rules in tried.STUDIES:
        series = [_series(setups[setup], name, day, receiver) for name, setup, day, receiver in rules]
        given = {"title": title, "kind": kind, "measure": measure, "clock": clock, "series": series}
        _save_study(given, tester)
    log = Log.objects.get(name=tried.LAPS_LOG)
    _save_study({"title": tried.LAPS_TITLE, "kind": "laps", "log": log.pk}, tester)
    noise = OwnMeasure.objects.create(name="Cabin noise at 80 mph", unit="dB", better=Better.LESS)
    for setup, day, readings in tried.NOISE:
        for value in readings:
            OwnValue.objects.create(measure=noise, setup=setups[setup], day=day, value=value, source="hand-held meter")
    for name, columns, sort in VIEWS:
        TableView.objects.create(name=name, columns=columns, sort=sort, created_by=tester)


def _series(setup: Setup, name: str, day: tuple[int, int] | None, receiver: str) -> dict[str, Any]:
    on_day = date(2026, *day) if day else None
    return {
        "name": name,
        "car": setup.car_id,
        "setup": setup.pk,
        "from_day": on_day,
        "to_day": on_day,
        "receiver": receiver,
    }


def _save_study(asked: dict[str, Any], tester: User) -> None:
    given = StudySerializer(data=asked)
    given.is_valid(raise_exception=True)
    given.save(created_by=tester)


def _void(tester: User) -> None:
    for day, (reason, note) in VOIDED.items():
        run = Run.objects.filter(start_utc__date=day, kind=RunKind.STANDING).last()
        if run:
            void_run(run, reason, note, run.revision, tester)


def _compare(tester: User, setups: dict[str, Setup]) -> None:
    for title, before, after, measure in COMPARISONS:
        groups = [
            {"name": name, "runs": list(_standing(setups[setup]).values_list("pk", flat=True))}
            for name, setup in (("before", before), ("after", after))
        ]
        given = ComparisonSerializer(data={"title": title, "measure": measure, "clock": "rollout", "groups": groups})
        given.is_valid(raise_exception=True)
        given.save(created_by=tester)


def _report(tester: User) -> None:
    """What the first update brought, as it was published for whoever paid for it."""
    comparison = Comparison.objects.get(title=COMPARISONS[0][0])
    quickest = Measured.objects.filter(run__in=Run.objects.filter(memberships__group__comparison=comparison))
    run = quickest.filter(name="1/4 mile", clock="rollout").earliest("time_s").run_id
    words = "Both were driven on closed days of one spring, in turns where the evening allowed it."
    parts: list[dict[str, Any]] = [
        {"kind": "comparison", "id": comparison.pk, "text": ""},
        {"kind": "text", "id": None, "text": words},
        {"kind": "study", "id": Study.objects.filter(kind="charge sweep").latest("pk").pk, "text": ""},
        {"kind": "slip", "id": run, "text": ""},
    ]
    asked = "Is the Vireo quicker since update 7.2, and by how much?"
    publish(
        Report.objects.create(title="What update 7.2 brought", question=asked, parts=parts, created_by=tester), tester
    )


def _standing(setup: Setup) -> QuerySet[Run]:
    """Its runs from rest, but for those of a sweep."""
    return setup.runs.filter(kind=RunKind.STANDING).exclude(log__name__contains="sweep").order_by("start_utc")
