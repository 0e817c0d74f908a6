"""Test days, their runs and their checklists over the API."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import TokenUse
from accounts.tokens import known
from days import services
from days.calendar import as_calendar, calendar_of_all
from days.models import ChecklistItem, ScheduledRun, TestDay
from days.serializers import (
    ChecklistItemSerializer,
    DayListSerializer,
    DaySerializer,
    ReorderSerializer,
    ScheduledRunSerializer,
)
from history.viewsets import KeepsHistory

CALENDAR = "text/calendar; charset=utf-8"
NOT_OF_A_NEW_LINE = ("signed", "revision")


class TestDayViewSet(KeepsHistory[TestDay], viewsets.ModelViewSet[TestDay]):
    """The test days."""

    filterset_fields = ["plan", "state"]

    def get_queryset(self) -> QuerySet[TestDay]:
        """With all that a day's page shows."""
        days = TestDay.objects.select_related("plan__car", "plan__course")
        if self.action == "list":
            return days.order_by("-first_run_at")
        return days.prefetch_related("scheduled_runs__group", "scheduled_runs__run", "checklist__signed_by")

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Any]]:
        """A row in the list, everything elsewhere."""
        return DayListSerializer if self.action == "list" else DaySerializer

    def perform_create(self, serializer: serializers.BaseSerializer[TestDay]) -> None:
        """The plan's next day, with its runs and its checklist."""
        given = dict(serializer.validated_data)
        serializer.instance = services.lay_out(given.pop("plan"), given)

    @extend_schema(request=ReorderSerializer, responses=DaySerializer)
    @action(detail=True, methods=["post"])
    def reorder(self, request: Request, pk: str) -> Response:
        """Put the day's runs into another order."""
        given = ReorderSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        day = self.get_object()
        with self.acting(f"Reordered the runs of {day}", day):
            services.reorder(day, given.validated_data["ids"])
        return Response(DaySerializer(self.get_object()).data)

    @extend_schema(request=None, responses=DaySerializer)
    @action(detail=True, methods=["post"], url_path="reset-checklist")
    def reset_checklist(self, request: Request, pk: str) -> Response:
        """Take every signature back, where the checklist is signed for each run."""
        day = self.get_object()
        with self.acting(f"Opened the checklist of {day} again", day):
            services.reset_checklist(day)
        return Response(DaySerializer(self.get_object()).data)

    @extend_schema(responses={(200, "text/calendar"): OpenApiTypes.BINARY})
    @action(detail=True)
    def calendar(self, request: Request, pk: str) -> HttpResponse:
        """The timetable as an iCalendar file."""
        day = self.get_object()
        name = f"day-{day.local(day.first_run_at):%Y-%m-%d}.ics"
        headers = {"Content-Disposition": f'attachment; filename="{name}"'}
        return HttpResponse(as_calendar(day), content_type=CALENDAR, headers=headers)


class ScheduledRunViewSet(
    KeepsHistory[ScheduledRun],
    mixins.CreateModelMixin,
    mixins.UpdateModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
):
    """The runs of a day's order: add, repeat, skip, mark as driven."""

    queryset = ScheduledRun.objects.select_related("group", "day__plan")
    serializer_class = ScheduledRunSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[ScheduledRun]) -> None:
        """At the day's end."""
        given = serializer.validated_data
        facts = {name: value for name, value in given.items() if name != "revision"}
        serializer.instance = services.append(given["day"], ScheduledRun(**facts))

    @extend_schema(request=None, responses=ScheduledRunSerializer)
    @action(detail=True, methods=["post"])
    def repeat(self, request: Request, pk: str) -> Response:
        """The same run once more, right after it."""
        step = self.get_object()
        with self.acting(f"Repeated {step}", step.day):
            made = services.repeat(step)
        return Response(ScheduledRunSerializer(made).data, status=201)


class ChecklistItemViewSet(
    KeepsHistory[ChecklistItem], mixins.CreateModelMixin, mixins.UpdateModelMixin, mixins.DestroyModelMixin
):
    """The lines of a day's checklist: add, reword, leave out, sign off."""

    queryset = ChecklistItem.objects.select_related("signed_by")
    serializer_class = ChecklistItemSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[ChecklistItem]) -> None:
        """At the list's end."""
        given = {name: value for name, value in serializer.validated_data.items() if name not in NOT_OF_A_NEW_LINE}
        serializer.instance = services.add_check(given["day"], given)


@require_safe
def calendar_feed(request: HttpRequest, secret: str) -> HttpResponse:
    """Every test day for a calendar program, which has no log-in: its address has a token that opens nothing else."""
    if known(secret, TokenUse.CALENDAR) is None:
        gone = "This calendar is not known, or was revoked. Make another address under Access tokens."
        return HttpResponse(gone, status=404, content_type="text/plain; charset=utf-8")
    headers = {"Cache-Control": "no-store", "X-Robots-Tag": "noindex"}
    return HttpResponse(calendar_of_all(), content_type=CALENDAR, headers=headers)
