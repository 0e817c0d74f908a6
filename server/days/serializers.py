"""Test days as the API shows and takes them."""

from __future__ import annotations

import math
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.utils import timezone
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from config.revisions import RevisedSerializer
from coombe_core.planning.day import Ranged
from coombe_core.wording import timetable as wording
from days.models import ChecklistItem, ScheduledRun, TestDay
from days.services import budget, changes_for, is_go, locked_day, settle, sign, worked_out
from plans.models import Plan
from plans.serializers import CanStillShowSerializer
from plans.services import can_still_show


class ScheduledRunSerializer(RevisedSerializer[ScheduledRun]):
    """One run of the order. A run that was imported may be linked to it."""

    group_name = serializers.CharField(source="group.name", read_only=True)

    class Meta:
        model = ScheduledRun
        fields = (
            *("id", "day", "position", "group", "group_name", "kind", "direction", "lane", "charge_percent"),
            *("from_speed_mps", "wait_min", "state", "run", "note", "revision"),
        )
        read_only_fields = ("position",)

    def update(self, instance: ScheduledRun, validated_data: dict[str, Any]) -> ScheduledRun:
        """The run changed; the day's state follows, and the day of a run stays what it is."""
        validated_data.pop("day", None)
        with transaction.atomic():
            locked_day(instance.day_id)  # first the day, as everybody does
            self.lock(instance, validated_data)
            return settle(instance, validated_data)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """The group belongs to the day's plan."""
        day = attrs.get("day", getattr(self.instance, "day", None))
        group = attrs.get("group", getattr(self.instance, "group", None))
        if day and group and group.plan_id != day.plan_id:
            raise serializers.ValidationError({"group": ["That group is of another plan."]})
        return attrs


class ChecklistItemSerializer(RevisedSerializer[ChecklistItem]):
    """One line of the checklist; `signed` signs it off under one's own name, or takes that back."""

    signed_by = serializers.CharField(source="signed_by.username", read_only=True, default=None, allow_null=True)
    signed = serializers.BooleanField(write_only=True, required=False)

    class Meta:
        model = ChecklistItem
        fields = ("id", "day", "position", "section", "text", "needed", "signed_by", "signed_at", "signed", "revision")
        read_only_fields = ("position", "signed_at")

    def update(self, instance: ChecklistItem, validated_data: dict[str, Any]) -> ChecklistItem:
        """The line changed, or signed under one's own name."""
        signed = validated_data.pop("signed", None)
        with transaction.atomic():
            item = super().update(instance, validated_data)
            return item if signed is None else sign(item, self.context["request"].user if signed else None)


class RangedSerializer(serializers.Serializer[Any]):
    """A median with the ends of its 95 % interval; null where it has no end."""

    value = serializers.FloatField(allow_null=True)
    low95 = serializers.FloatField(allow_null=True)
    high95 = serializers.FloatField(allow_null=True)


class TimetableStepSerializer(serializers.Serializer[Any]):
    """Something to do or to happen; `local` is the clock at the course."""

    kind = serializers.CharField()
    at = serializers.DateTimeField()
    local = serializers.CharField()
    early = serializers.CharField(allow_null=True)
    late = serializers.CharField(allow_null=True)
    note = serializers.CharField(allow_blank=True)


class RemedyChangesSerializer(serializers.Serializer[Any]):
    """Fields of a day with the values that a remedy gives them."""

    first_run_at = serializers.DateTimeField(required=False)
    known_at = serializers.DateTimeField(required=False)
    course_charger_kw = serializers.FloatField(required=False)


class RemedySerializer(serializers.Serializer[Any]):
    """A change that meets the plan, and what of the day to set for it; null where it is no field of the day."""

    sentence = serializers.CharField()
    parts = serializers.ListField(child=serializers.CharField())
    changes = RemedyChangesSerializer(allow_null=True)


class TimetableSerializer(serializers.Serializer[Any]):
    """The charge-and-heat timetable."""

    met = serializers.BooleanField()
    chance = serializers.FloatField()
    steps = TimetableStepSerializer(many=True)
    battery_temp_c = RangedSerializer()
    charge_percent = RangedSerializer()
    open_min = RangedSerializer()
    shortfalls = serializers.ListField(child=serializers.CharField())
    remedies = RemedySerializer(many=True)
    cautions = serializers.ListField(child=serializers.CharField())
    learned_from = serializers.ListField(child=serializers.CharField())


class BudgetSerializer(serializers.Serializer[Any]):
    """Runs left in the charge and runs still open."""

    charge_percent = serializers.FloatField()
    charge_is_estimated = serializers.BooleanField()
    open = serializers.IntegerField()
    done = serializers.IntegerField()
    sure = serializers.IntegerField()
    likely = serializers.IntegerField()
    at_best = serializers.IntegerField()


class DayListSerializer(serializers.ModelSerializer[TestDay]):
    """A day in the list."""

    question = serializers.CharField(source="plan.question", read_only=True)
    course_name = serializers.CharField(source="plan.course.name", read_only=True)
    car_name = serializers.CharField(source="plan.car.name", read_only=True)
    local_day = serializers.DateField(read_only=True)

    class Meta:
        model = TestDay
        fields = ("id", "plan", "question", "car_name", "course_name", "part", "first_run_at", "local_day", "state")


class DaySerializer(RevisedSerializer[TestDay]):
    """A day with its order, checklist, timetable and budget."""

    question = serializers.CharField(source="plan.question", read_only=True)
    car_name = serializers.CharField(source="plan.car.name", read_only=True)
    course_name = serializers.CharField(source="plan.course.name", read_only=True)
    measure = serializers.CharField(source="plan.measure", read_only=True)
    time_zone = serializers.CharField(source="plan.course.time_zone", read_only=True)
    local_date = serializers.SerializerMethodField()
    first_run_local = serializers.SerializerMethodField()
    known_local = serializers.SerializerMethodField()
    scheduled_runs = ScheduledRunSerializer(many=True, read_only=True)
    checklist = ChecklistItemSerializer(many=True, read_only=True)
    timetable = serializers.SerializerMethodField()
    budget = serializers.SerializerMethodField()
    go = serializers.SerializerMethodField()
    can_still_show = serializers.SerializerMethodField()
    difference_that_matters = serializers.FloatField(source="plan.difference_that_matters", read_only=True)

    class Meta:
        model = TestDay
        exclude = ()
        read_only_fields = ("part", "state")

    def to_internal_value(self, data: Any) -> Any:
        """Times without a zone are those of the course."""
        zone = ZoneInfo(self._course_zone(data))
        with timezone.override(zone):
            return super().to_internal_value(data)

    def _course_zone(self, data: Any) -> str:
        if self.instance:
            return self.instance.plan.course.time_zone
        plan = Plan.objects.select_related("course").filter(pk=_whole(data.get("plan")) or 0).first()
        return plan.course.time_zone if plan else "UTC"

    def get_first_run_local(self, day: TestDay) -> str:
        """The first run on the clock at the course."""
        return f"{day.local(day.first_run_at):%Y-%m-%dT%H:%M}"

    def get_known_local(self, day: TestDay) -> str:
        """When the state was as stated, on the clock at the course."""
        return f"{day.local(day.known_at):%Y-%m-%dT%H:%M}"

    def get_local_date(self, day: TestDay) -> str:
        """The day's date at the course, in words."""
        return f"{day.local(day.first_run_at):%A, %B %-d, %Y}"

    @extend_schema_field(TimetableSerializer)
    def get_timetable(self, day: TestDay) -> Any:
        """Worked back from the first run."""
        made = worked_out(day)
        report = {
            "met": made.met,
            "chance": made.chance,
            "shortfalls": [wording.shortfall(each) for each in made.shortfalls],
            "remedies": [
                {
                    "sentence": wording.remedy(each),
                    "parts": [wording.change(part) for part in each],
                    "changes": changes_for(each),
                }
                for each in made.remedies
            ],
            "cautions": [wording.caution(each) for each in made.cautions],
            **{name: _ranged(getattr(made, name)) for name in ("battery_temp_c", "charge_percent", "open_min")},
            "learned_from": wording.rests_on(made),
            "steps": [
                {
                    "kind": step.kind,
                    "at": step.at,
                    "local": _clock(step.at),
                    "early": _clock(step.early),
                    "late": _clock(step.late),
                    "note": wording.step_note(step),
                }
                for step in made.steps
            ],
        }
        return TimetableSerializer(report).data

    @extend_schema_field(BudgetSerializer)
    def get_budget(self, day: TestDay) -> Any:
        """What the charge allows."""
        return BudgetSerializer(budget(day)).data

    def get_go(self, day: TestDay) -> bool:
        """Whether the checklist is signed off."""
        return is_go(day)

    @extend_schema_field(CanStillShowSerializer(allow_null=True))
    def get_can_still_show(self, day: TestDay) -> Any:
        """The least difference that the plan's runs driven and open detect."""
        return can_still_show(day.plan)


def _whole(given: Any) -> int | None:
    return int(given) if str(given).isdecimal() else None


def _clock(instant: datetime | None) -> str | None:
    return None if instant is None else f"{instant:%H:%M}"


def _ranged(ranged: Ranged) -> dict[str, float | None]:
    ends = {"value": ranged.value, "low95": ranged.low95, "high95": ranged.high95}
    return {name: end if math.isfinite(end) else None for name, end in ends.items()}


class ReorderSerializer(serializers.Serializer[Any]):
    """The day's runs in another order."""

    ids = serializers.ListField(child=serializers.IntegerField(), max_length=500)
