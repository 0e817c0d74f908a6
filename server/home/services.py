"""What a person wants to know on opening Coombe: the next day, open tests, the latest verdicts, and what lacks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, cast

from django.conf import settings
from django.db.models import Count, Q
from django.utils import timezone

from accounts.models import Role, User
from cars.models import Car
from comparisons.models import Comparison
from coombe_core.wording.quantities import counted
from coombe_launcher import backup_state
from days.models import DayState, ScheduledRunState, TestDay
from plans.models import Plan
from plans.services import with_progress, without_baseline
from recording.models import Recording
from runs.filling import missing
from runs.models import Import, ImportState, Run

MOST_DAYS, MOST_PLANS, MOST_VERDICTS, MOST_TROUBLE = 2, 6, 6, 5
RECENT = timedelta(days=14)  # what was refused earlier is no news


@dataclass(frozen=True)
class NextDay:
    """A day that is under way or to come, with how many of its runs are done of all; its date is the course's."""

    id: int
    question: str
    car_name: str
    course_name: str
    local_date: str
    local_time: str
    first_run_at: datetime
    state: str
    done: int
    runs: int


@dataclass(frozen=True)
class OpenTest:
    """A test that is planned or under way, and what it still needs."""

    id: int
    question: str
    car_name: str
    measure: str
    done: int
    open: int
    needs: str


@dataclass(frozen=True)
class Trouble:
    """What went wrong with a file, a recording or a backup, and the page where it is seen to, if there is one."""

    sentence: str
    path: str


@dataclass(frozen=True)
class Home:
    """All of it, and how much there is at all."""

    cars: int
    runs: int
    days: Sequence[NextDay]
    tests: Sequence[OpenTest]
    verdicts: Sequence[Comparison]
    without_conditions: int
    trouble: Sequence[Trouble]
    reminders: Sequence[dict[str, Any]]


def home(person: User) -> Home:
    """What there is to know now, for a person."""
    return Home(
        cars=Car.objects.count(),
        runs=Run.objects.count(),
        days=_days(),
        tests=_tests(),
        verdicts=list(Comparison.objects.select_related("created_by").exclude(kept=None)[:MOST_VERDICTS]),
        without_conditions=missing(Run.objects.all()).count(),
        trouble=[*(_of_backups() if person.role == Role.ADMINISTRATOR else []), *_trouble()],
        reminders=_reminders(),
    )


def _days() -> list[NextDay]:
    """Days under way, then the next ones: one that began yesterday and was never started is over."""
    days = TestDay.objects.filter(
        Q(state=DayState.UNDER_WAY) | Q(state=DayState.PLANNED, first_run_at__gte=timezone.now() - timedelta(hours=12))
    )
    done = Count("scheduled_runs", filter=Q(scheduled_runs__state=ScheduledRunState.DONE))
    rows = days.select_related("plan__car", "plan__course").annotate(done=done, runs=Count("scheduled_runs"))
    return [
        NextDay(
            id=day.pk,
            question=day.plan.question,
            car_name=day.plan.car.name,
            course_name=day.plan.course.name,
            local_date=f"{day.local(day.first_run_at):%Y-%m-%d}",
            local_time=f"{day.local(day.first_run_at):%H:%M}",
            first_run_at=day.first_run_at,
            state=day.state,
            done=day.done,
            runs=day.runs,
        )
        for day in rows.order_by("first_run_at")[:MOST_DAYS]
    ]


def _tests() -> list[OpenTest]:
    """Plans with runs that are still to be driven, or without a day."""
    plans = with_progress(Plan.objects.select_related("car")).filter(Q(open__gt=0) | Q(day_count=0))
    return [
        OpenTest(plan.pk, plan.question, plan.car.name, plan.measure, plan.done, plan.open, _needs(plan))
        for plan in cast(list[Any], plans[:MOST_PLANS])
    ]


def _needs(plan: Any) -> str:
    if plan.day_count == 0:
        return "Needs a day."
    return f"{counted(plan.open, 'run')} of {plan.done + plan.open} still to drive."


def _of_backups() -> list[Trouble]:
    sentence = backup_state.trouble(settings.VAR)
    return [Trouble(sentence, "")] if sentence else []


def _trouble() -> list[Trouble]:
    since = timezone.now() - RECENT
    stuck = Recording.objects.exclude(trouble="").filter(stored_at=None).order_by("-began_at")
    refused = Import.objects.filter(state=ImportState.REFUSED, created_at__gte=since)
    found = [
        *(Trouble(f"Recording {each.name}: {each.trouble}", "/record") for each in stuck[:MOST_TROUBLE]),
        *(Trouble(f"{each.name} was refused: {_reason(each)}", "/runs") for each in refused[:MOST_TROUBLE]),
    ]
    return found[:MOST_TROUBLE]


def _reason(refused: Import) -> str:
    return str((refused.refusal or {}).get("detail") or "no reason was kept")


def _reminders() -> list[dict[str, Any]]:
    """Questions without a baseline, of every car."""
    return [
        {"plan": plan.pk, "question": plan.question, "sentence": sentence}
        for car in Car.objects.filter(plans__isnull=False).distinct()
        for plan, sentence in without_baseline(car)
    ][:MOST_PLANS]
