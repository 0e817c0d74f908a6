"""Comparisons as the API shows and takes them. The result is the command's `coombe.comparison/1` and more."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from comparisons.models import ArmName, Comparison, Member, QuantityName
from comparisons.services import compare_runs, load_arms
from runs.models import ClockName, Run

VERDICTS = ("faster", "slower", "shorter", "longer", "no difference shown", "too few runs", "not comparable")
CHARACTERS = ("launch", "power", "top end", "mixed")
MOST_RUNS = 200


class AskSerializer(serializers.Serializer[Any]):
    """What to compare, without saving it."""

    measure = serializers.CharField(max_length=24)
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices, default=QuantityName.TIME)
    before = serializers.ListField(child=serializers.IntegerField(), max_length=MOST_RUNS)
    after = serializers.ListField(child=serializers.IntegerField(), max_length=MOST_RUNS)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A run stands in one arm only, and must still be there."""
        both = set(attrs["before"]) & set(attrs["after"])
        if both:
            raise serializers.ValidationError({"after": ["A run can't stand in both arms."]})
        asked = {*attrs["before"], *attrs["after"]}
        gone = asked - set(Run.objects.filter(pk__in=asked).values_list("pk", flat=True))
        if gone:
            names = ", ".join(map(str, sorted(gone)))
            raise serializers.ValidationError({"before": [f"These runs are gone, deleted meanwhile: {names}."]})
        return attrs


class SampleSerializer(serializers.Serializer[Any]):
    """One arm in a nutshell."""

    n = serializers.IntegerField()
    mean = serializers.FloatField(allow_null=True)
    sd = serializers.FloatField(allow_null=True)
    best = serializers.FloatField(allow_null=True)


class DifferenceSerializer(serializers.Serializer[Any]):
    """After minus before, with its 95 % interval."""

    value = serializers.FloatField()
    low95 = serializers.FloatField()
    high95 = serializers.FloatField()


class BandSerializer(serializers.Serializer[Any]):
    """A band of speed or of distance and the difference within it."""

    from_mps = serializers.FloatField(required=False)
    to_mps = serializers.FloatField(required=False)
    from_m = serializers.FloatField(required=False)
    to_m = serializers.FloatField(required=False)
    difference_s = serializers.FloatField()


class MemberSerializer(serializers.Serializer[Any]):
    """A run in an arm with its value, or why it dropped out."""

    id = serializers.IntegerField()
    arm = serializers.ChoiceField(choices=ArmName.choices)
    start_utc = serializers.DateTimeField()
    set_up_name = serializers.CharField()
    charge_before_percent = serializers.FloatField(allow_null=True)
    pack_temp_before_c = serializers.FloatField(allow_null=True)
    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    dropped = serializers.CharField(allow_blank=True)


class OverlaySerializer(serializers.Serializer[Any]):
    """A run's fitted speed from the clock's zero."""

    run = serializers.IntegerField()
    arm = serializers.ChoiceField(choices=ArmName.choices)
    since_s = serializers.ListField(child=serializers.FloatField())
    speed_mps = serializers.ListField(child=serializers.FloatField())


class ResultSerializer(serializers.Serializer[Any]):
    """What a comparison found."""

    schema = serializers.CharField()
    core_version = serializers.CharField()
    measure = serializers.CharField()
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices)
    before = SampleSerializer()
    after = SampleSerializer()
    difference = DifferenceSerializer(allow_null=True)
    unit = serializers.CharField()
    better = serializers.BooleanField(allow_null=True)
    p_value = serializers.FloatField(allow_null=True)
    permutation_p = serializers.FloatField(allow_null=True)
    smallest_shown = serializers.FloatField(allow_null=True)
    verdict = serializers.ChoiceField(choices=VERDICTS)
    sentence = serializers.CharField()
    reasons = serializers.ListField(child=serializers.CharField())
    bands = BandSerializer(many=True)
    character = serializers.ChoiceField(choices=CHARACTERS, allow_null=True)
    field = serializers.CharField()
    runs = MemberSerializer(many=True)
    overlays = OverlaySerializer(many=True)


class ComparisonRowSerializer(serializers.ModelSerializer[Comparison]):
    """A saved comparison in the list."""

    created_by = serializers.CharField(source="created_by.username", read_only=True)

    class Meta:
        model = Comparison
        fields = ("id", "title", "measure", "clock", "quantity", "created_by", "created_at")


class ComparisonSerializer(AskSerializer):
    """A saved comparison with its arms and its result."""

    id = serializers.IntegerField(read_only=True)
    title = serializers.CharField(max_length=160)
    created_by = serializers.CharField(source="created_by.username", read_only=True)
    created_at = serializers.DateTimeField(read_only=True)
    result = ResultSerializer(read_only=True)

    def to_representation(self, instance: Comparison) -> dict[str, Any]:
        """The row, the arms' run numbers and the result."""
        arms: dict[str, list[int]] = {arm: [] for arm in ArmName.values}
        for run, arm in instance.members.values_list("run", "arm"):
            arms[arm].append(run)
        result = compare_runs(instance.measure, instance.clock, instance.quantity, load_arms(arms))  # type: ignore[arg-type]
        return {**ComparisonRowSerializer(instance).data, **arms, "result": ResultSerializer(result).data}

    def create(self, validated_data: dict[str, Any]) -> Comparison:
        """Save the question and its arms."""
        arms = {arm: validated_data.pop(arm) for arm in ArmName.values}
        comparison = Comparison.objects.create(**validated_data)
        Member.objects.bulk_create(
            Member(comparison=comparison, run_id=run, arm=arm) for arm, runs in arms.items() for run in runs
        )
        return comparison
