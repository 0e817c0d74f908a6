"""Comparisons as the API takes and keeps them."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from rest_framework import serializers

from comparisons.models import Arm, Comparison, Member, QuantityName
from comparisons.result_serializers import ResultSerializer
from comparisons.saved import ask, changes, kept_of, question_of
from comparisons.services import answer
from coombe_core.comparing.factors import ADJUSTABLE
from runs.models import ClockName, Run

MOST_RUNS, MOST_ARMS = 200, 6


class AskedArmSerializer(serializers.Serializer[Any]):
    """One group: runs by number, or values typed from elsewhere on the comparison's clock with their source."""

    name = serializers.CharField(max_length=40)
    runs = serializers.ListField(child=serializers.IntegerField(), max_length=MOST_RUNS, default=list)
    typed = serializers.ListField(
        child=serializers.FloatField(min_value=0.1, max_value=1000), max_length=60, default=list
    )
    clock = serializers.ChoiceField(choices=ClockName.choices, allow_blank=True, default="")
    source = serializers.CharField(max_length=200, allow_blank=True, default="")  # type: ignore[assignment]  # a name that DRF uses too

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Runs or typed values; what was typed says where it comes from."""
        if attrs["typed"] and attrs["runs"]:
            raise serializers.ValidationError({"typed": ["A group has runs or typed values, not both."]})
        if attrs["typed"] and not attrs["source"].strip():
            raise serializers.ValidationError({"source": ["Say where the typed values come from."]})
        if attrs["typed"] and not attrs["clock"]:
            raise serializers.ValidationError({"clock": ["Say on which clock the typed values are."]})
        return attrs


class AskSerializer(serializers.Serializer[Any]):
    """What to compare, without saving it. The first group is what the others are compared with."""

    measure = serializers.CharField(max_length=24)
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices, default=QuantityName.TIME)
    arms = AskedArmSerializer(many=True)
    adjust = serializers.ListField(child=serializers.ChoiceField(choices=[(n, n) for n in ADJUSTABLE]), default=list)
    match = serializers.BooleanField(default=False)
    matters = serializers.FloatField(min_value=0.001, max_value=100, allow_null=True, default=None)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Clocks never mix."""
        for arm in attrs["arms"]:
            if arm["typed"] and arm["clock"] != attrs["clock"]:
                told = f"{arm['name']} is typed on the clock {arm['clock']}; clocks are never mixed."
                raise serializers.ValidationError({"clock": [told]})
        return attrs

    def validate_arms(self, arms: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Two to six groups of different names; a run stands in one only, and must still be there."""
        if not 2 <= len(arms) <= MOST_ARMS:
            raise serializers.ValidationError("Two to six groups are compared.")
        if len({arm["name"] for arm in arms}) < len(arms):
            raise serializers.ValidationError("Give the groups different names.")
        runs = [run for arm in arms for run in arm["runs"]]
        if len(set(runs)) < len(runs):
            raise serializers.ValidationError("A run can't stand in two groups.")
        gone = set(runs) - set(Run.objects.filter(pk__in=runs).values_list("pk", flat=True))
        if gone:
            names = ", ".join(map(str, sorted(gone)))
            raise serializers.ValidationError(f"These runs are gone, deleted meanwhile: {names}.")
        return arms


class ComparisonRowSerializer(serializers.ModelSerializer[Comparison]):
    """A saved comparison in the list, with what it said when it was saved."""

    created_by = serializers.CharField(source="created_by.username", read_only=True)
    said = serializers.SerializerMethodField()

    class Meta:
        model = Comparison
        fields = ("id", "title", "measure", "clock", "quantity", "said", "created_by", "created_at")

    def get_said(self, comparison: Comparison) -> str:
        """The verdicts that were kept."""
        return ", ".join(pair["verdict"] for pair in (comparison.kept or {}).get("pairs", []))


class ComparisonSerializer(AskSerializer):
    """A saved comparison with its groups, its result, and what has changed since it was saved."""

    id = serializers.IntegerField(read_only=True)
    title = serializers.CharField(max_length=160)
    created_by = serializers.CharField(source="created_by.username", read_only=True)
    created_at = serializers.DateTimeField(read_only=True)
    changes = serializers.ListField(child=serializers.CharField(), read_only=True)
    result = ResultSerializer(read_only=True)

    def to_representation(self, instance: Comparison) -> dict[str, Any]:
        """The row, how it was asked, and the result."""
        result = answer(ask(instance))
        told = ComparisonRowSerializer(instance).data | question_of(instance)
        return {**told, "changes": changes(instance.kept, result), "result": ResultSerializer(result).data}

    @transaction.atomic
    def create(self, validated_data: dict[str, Any]) -> Comparison:
        """Save the question, its groups and what was found."""
        arms = validated_data.pop("arms")
        comparison = Comparison.objects.create(**validated_data)
        for position, arm in enumerate(arms):
            runs = arm.pop("runs")
            made = Arm.objects.create(comparison=comparison, position=position, **arm)
            Member.objects.bulk_create(Member(arm=made, run_id=run) for run in runs)
        keep(comparison)
        return comparison


def keep(comparison: Comparison) -> None:
    """Keep what a saved comparison finds now."""
    comparison.kept = kept_of(answer(ask(comparison)))
    comparison.save(update_fields=["kept"])
