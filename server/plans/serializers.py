"""Plans as the API shows and takes them, with what they say about themselves."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from config.fields import MeasureField
from config.nested import WholeSerializer
from config.revisions import RevisedSerializer
from learning.serializers import StripCheckSerializer
from plans.models import OF_SEVERAL_CARS, Group, Plan, PlanKind
from plans.services import advise, can_still_show, fits, progress

MOST_GROUPS, LANES = 6, 2


class GroupSerializer(WholeSerializer[Group]):
    """One side of the question."""

    setup_name = serializers.CharField(source="setup.name", read_only=True, default=None, allow_null=True)
    car = serializers.IntegerField(source="setup.car_id", read_only=True, default=None, allow_null=True)

    class Meta:
        model = Group
        fields = ("id", "name", "setup", "setup_name", "car")


class CurvePointSerializer(serializers.Serializer[Any]):
    """What a number of runs per group could show."""

    runs = serializers.IntegerField()
    smallest = serializers.FloatField()


class SizeSerializer(serializers.Serializer[Any]):
    """How many runs are needed, and what the chosen number could show."""

    run_sd = serializers.FloatField()
    day_sd = serializers.FloatField()
    scatter_source = serializers.CharField()
    runs_needed = serializers.IntegerField(allow_null=True)
    days_needed = serializers.IntegerField(allow_null=True)
    needed_sentence = serializers.CharField()
    detectable_difference = serializers.FloatField(allow_null=True)
    power = serializers.FloatField(allow_null=True)
    planned_sentence = serializers.CharField(allow_blank=True)
    curve = CurvePointSerializer(many=True)


class ConfoundedSerializer(serializers.Serializer[Any]):
    """What goes with the groups in this order."""

    what = serializers.CharField()
    sentence = serializers.CharField()
    avoided_by = serializers.CharField(allow_null=True)


class PlannedSerializer(serializers.Serializer[Any]):
    """One run of the order."""

    group = serializers.CharField()
    kind = serializers.CharField()
    direction = serializers.CharField()
    lane = serializers.CharField(allow_blank=True)
    charge_percent = serializers.FloatField(allow_null=True)
    from_speed_mps = serializers.FloatField(allow_null=True)
    wait_min = serializers.FloatField()


class RunsLeftSerializer(serializers.Serializer[Any]):
    """Runs that the window's charge allows."""

    sure = serializers.IntegerField()
    likely = serializers.IntegerField()
    at_best = serializers.IntegerField()


class TopUpSerializer(serializers.Serializer[Any]):
    """Charging between two runs."""

    after_run = serializers.IntegerField()
    from_percent = serializers.FloatField()
    to_percent = serializers.FloatField()


class AdviceSerializer(serializers.Serializer[Any]):
    """What a plan says about itself."""

    size = SizeSerializer(allow_null=True)
    confounded = ConfoundedSerializer(many=True)
    days = serializers.ListField(child=PlannedSerializer(many=True))
    run_count = serializers.IntegerField()
    duration_min = serializers.FloatField()
    charge_per_run_percent = serializers.FloatField()
    charge_per_run_source = serializers.CharField()
    runs_left = RunsLeftSerializer()
    top_ups = TopUpSerializer(many=True)
    driving_down = serializers.CharField(allow_blank=True, help_text="between the rungs of a sweep")
    strip = StripCheckSerializer()


class CanStillShowSerializer(serializers.Serializer[Any]):
    """The least difference that can still be detected, in the measure's unit and in words."""

    difference = serializers.FloatField(allow_null=True)
    sentence = serializers.CharField()


class ProgressSerializer(serializers.Serializer[Any]):
    """How far a group has come."""

    group = serializers.CharField()
    done = serializers.IntegerField()
    open = serializers.IntegerField()
    baseline = serializers.IntegerField()
    runs = serializers.ListField(child=serializers.IntegerField())


class DayRowSerializer(serializers.Serializer[Any]):
    """A day in a plan's list."""

    id = serializers.IntegerField(read_only=True)
    part = serializers.IntegerField(read_only=True)
    first_run_at = serializers.DateTimeField(read_only=True)
    local_day = serializers.DateField(read_only=True)
    state = serializers.CharField(read_only=True)


class PlanRowSerializer(serializers.ModelSerializer[Plan]):
    """A plan in the list."""

    car_name = serializers.CharField(source="car.name", read_only=True)
    course_name = serializers.CharField(source="course.name", read_only=True)
    groups = GroupSerializer(many=True, read_only=True)
    days = DayRowSerializer(many=True, read_only=True)
    done = serializers.IntegerField(read_only=True, help_text="runs of its days that were driven")
    open = serializers.IntegerField(read_only=True, help_text="and those still to drive")

    class Meta:
        model = Plan
        fields = (
            *("id", "question", "kind", "car", "car_name", "course_name", "measure", "clock", "runs_per_group"),
            *("groups", "days", "done", "open", "created_at"),
        )


class PlanAskSerializer(serializers.ModelSerializer[Plan]):
    """A plan as it is asked for, saved or not."""

    measure = MeasureField(required=False)
    groups = GroupSerializer(many=True)

    class Meta:
        model = Plan
        exclude = ("created_by", "created_at", "revision")

    def validate_groups(self, groups: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """One to six, each with a name of its own."""
        names = [group["name"] for group in groups]
        if not 1 <= len(groups) <= MOST_GROUPS or len(set(names)) < len(names):
            raise serializers.ValidationError("One to six groups, each with a name of its own.")
        return groups

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """An open window, setups of this car, and no more days than runs."""
        for low, high in (("low_charge_percent", "high_charge_percent"), ("low_battery_temp_c", "high_battery_temp_c")):
            ends = [self._stated(attrs, name) for name in (low, high)]
            if ends[0] >= ends[1]:
                raise serializers.ValidationError({high: ["The window's upper end must be above its lower end."]})
        car = self._stated(attrs, "car")
        kind = self._stated(attrs, "kind")
        several = kind in OF_SEVERAL_CARS
        if kind == PlanKind.SIDE_BY_SIDE and len(attrs.get("groups", [])) > LANES:
            raise serializers.ValidationError({"groups": ["Side by side takes two groups, one a lane."]})
        for group in attrs.get("groups", []):
            if group.get("setup") and group["setup"].car_id != car.pk and not several:
                raise serializers.ValidationError({"groups": [f"{group['setup'].name} is no setup of {car.name}."]})
        if self._stated(attrs, "runs_per_group") < self._stated(attrs, "days_per_group"):
            raise serializers.ValidationError({"days_per_group": ["More days than runs per group."]})
        return attrs

    def _stated(self, attrs: dict[str, Any], name: str) -> Any:
        if name in attrs:
            return attrs[name]
        field: Any = Plan._meta.get_field(name)
        return getattr(self.instance, name) if self.instance else field.get_default()


class PlanSerializer(PlanAskSerializer, RevisedSerializer[Plan]):
    """A saved plan with its advice, its progress and its days. A strip that is too short is refused."""

    created_by = serializers.CharField(source="created_by.username", read_only=True)
    advice = serializers.SerializerMethodField()
    progress = serializers.SerializerMethodField()
    can_still_show = serializers.SerializerMethodField()
    days = DayRowSerializer(many=True, read_only=True)

    class Meta:
        model = Plan
        fields = "__all__"

    @extend_schema_field(AdviceSerializer)
    def get_advice(self, plan: Plan) -> Any:
        """What the plan says about itself."""
        return AdviceSerializer(advise(plan, [group.name for group in plan.groups.all()])).data

    @extend_schema_field(ProgressSerializer(many=True))
    def get_progress(self, plan: Plan) -> Any:
        """Every group's progress."""
        return ProgressSerializer(progress(plan), many=True).data

    @extend_schema_field(CanStillShowSerializer(allow_null=True))
    def get_can_still_show(self, plan: Plan) -> Any:
        """The least difference that the runs driven and those open detect."""
        return can_still_show(plan)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Refused where the strip is too short to stop on, and where a saved plan would get or lose a group."""
        attrs = super().validate(attrs)
        if self.instance and "groups" in attrs and len(attrs["groups"]) != self.instance.groups.count():
            raise serializers.ValidationError({"groups": ["A saved plan keeps its number of groups: make a new plan."]})
        setups = [group["setup"] for group in attrs.get("groups", []) if group.get("setup")]
        for car in {self._stated(attrs, "car"), *(setup.car for setup in setups)}:
            try:
                refused = fits(self._stated(attrs, "course"), car, self._stated(attrs, "measure"))
            except ValueError as error:
                raise serializers.ValidationError({"measure": [str(error)]}) from None
            if refused:
                raise serializers.ValidationError({"course": [refused]})
        return attrs

    def create(self, validated_data: dict[str, Any]) -> Plan:
        """The plan with its groups."""
        groups = validated_data.pop("groups")
        with transaction.atomic():
            plan = super().create(validated_data)
            Group.objects.bulk_create(Group(plan=plan, position=i, **group) for i, group in enumerate(groups))
        return plan

    def update(self, instance: Plan, validated_data: dict[str, Any]) -> Plan:
        """The plan; of its groups, by their places, names and setups, since days may hang on them."""
        groups = validated_data.pop("groups", [])
        with transaction.atomic():
            plan = super().update(instance, validated_data)
            for group, changed in zip(plan.groups.all(), groups, strict=False):
                group.name, group.setup = changed["name"], changed.get("setup")
                group.save()
        return plan
