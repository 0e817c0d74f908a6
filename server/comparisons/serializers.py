"""Comparisons as the API takes and keeps them."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from comparisons.models import Comparison, Group, Member, QuantityName
from comparisons.result_serializers import DifferenceSerializer, ResultSerializer
from comparisons.saved import ask, changes, corrections, kept_of, question_of
from comparisons.services import answer
from config.fields import MeasureField
from coombe_core.comparing.factors import ADJUSTABLE
from coombe_core.packages.tables import LICENSES
from runs.models import ClockName, Run

MOST_RUNS, MOST_GROUPS = 500, 6


class AskedGroupSerializer(serializers.Serializer[Any]):
    """One group: runs by number, or values typed from elsewhere on the comparison's clock with their source."""

    name = serializers.CharField(max_length=40)
    runs = serializers.ListField(child=serializers.IntegerField(), max_length=MOST_RUNS, default=list)
    typed_values = serializers.ListField(
        child=serializers.FloatField(min_value=0.1, max_value=1000), max_length=60, default=list
    )
    typed_day = serializers.DateField(
        allow_null=True, default=None, help_text="the day of all typed values, if they are of one, in its order"
    )
    clock = serializers.ChoiceField(choices=ClockName.choices, allow_blank=True, default="")
    source = serializers.CharField(max_length=200, allow_blank=True, default="")  # type: ignore[assignment]  # a name that DRF uses too

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Runs or typed values; what was typed says where it comes from."""
        if attrs["typed_values"] and attrs["runs"]:
            raise serializers.ValidationError({"typed_values": ["A group has runs or typed values, not both."]})
        if attrs["typed_values"] and not attrs["source"].strip():
            raise serializers.ValidationError({"source": ["Say where the typed values come from."]})
        if attrs["typed_values"] and not attrs["clock"]:
            raise serializers.ValidationError({"clock": ["Say on which clock the typed values are."]})
        return attrs


class CandidatesAskSerializer(serializers.Serializer[Any]):
    """Which runs are looked through, and what they have to be."""

    measure = MeasureField()
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices, default=QuantityName.TIME)
    car = serializers.IntegerField(required=False, allow_null=True, default=None)
    setup = serializers.CharField(required=False)
    day = serializers.CharField(required=False, help_text="of the course")
    drive_mode = serializers.CharField(required=False)
    direction = serializers.CharField(required=False)
    launch_aid = serializers.ChoiceField(choices=["on", "off"], required=False)
    tires = serializers.CharField(required=False)
    course = serializers.CharField(required=False)
    charge_from = serializers.FloatField(required=False)
    charge_to = serializers.FloatField(required=False)
    battery_from = serializers.FloatField(required=False, help_text="degrees Celsius")
    battery_to = serializers.FloatField(required=False, help_text="degrees Celsius")


class OfferSerializer(serializers.Serializer[Any]):
    """A word that a filter offers, and how many of the runs that the other filters leave have it."""

    word = serializers.CharField()
    name = serializers.CharField()
    count = serializers.IntegerField()


class OffersSerializer(serializers.Serializer[Any]):
    """What every filter offers."""

    setup = OfferSerializer(many=True)
    day = OfferSerializer(many=True)
    drive_mode = OfferSerializer(many=True)
    direction = OfferSerializer(many=True)
    launch_aid = OfferSerializer(many=True)
    tires = OfferSerializer(many=True)
    course = OfferSerializer(many=True)


class CandidateSerializer(serializers.Serializer[Any]):
    """A run that the filters leave."""

    id = serializers.IntegerField()
    setup = serializers.IntegerField()
    value = serializers.FloatField(allow_null=True)


class CandidatesSerializer(serializers.Serializer[Any]):
    """The runs that the filters leave of all; `drawn` are the latest of them, with their values."""

    of = serializers.IntegerField()
    ids = serializers.ListField(child=serializers.IntegerField())
    drawn = CandidateSerializer(many=True)
    offers = OffersSerializer()


class AskSerializer(serializers.Serializer[Any]):
    """What to compare, without saving it. The first group is what the others are compared with."""

    measure = MeasureField()
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices, default=QuantityName.TIME)
    groups = AskedGroupSerializer(many=True)
    adjust = serializers.ListField(child=serializers.ChoiceField(choices=[(n, n) for n in ADJUSTABLE]), default=list)
    match = serializers.BooleanField(default=False)
    difference_that_matters = serializers.FloatField(min_value=0.001, max_value=100, allow_null=True, default=None)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Clocks never mix."""
        for group in attrs["groups"]:
            if group["typed_values"] and group["clock"] != attrs["clock"]:
                report = f"{group['name']} is typed on the clock {group['clock']}; clocks are never mixed."
                raise serializers.ValidationError({"clock": [report]})
        return attrs

    def validate_groups(self, groups: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Two to six groups of different names; a run stands in one only, and must still be there."""
        if not 2 <= len(groups) <= MOST_GROUPS:
            raise serializers.ValidationError("Two to six groups are compared.")
        if len({group["name"] for group in groups}) < len(groups):
            raise serializers.ValidationError("Give the groups different names.")
        runs = [run for group in groups for run in group["runs"]]
        if len(set(runs)) < len(runs):
            raise serializers.ValidationError("A run can't stand in two groups.")
        gone = set(runs) - set(Run.objects.filter(pk__in=runs).values_list("pk", flat=True))
        if gone:
            names = ", ".join(map(str, sorted(gone)))
            raise serializers.ValidationError(f"These runs have been deleted: {names}.")
        return groups


class KeptVerdictSerializer(serializers.Serializer[Any]):
    """What a pair of groups came to when it was saved."""

    verdict = serializers.CharField()
    difference = DifferenceSerializer(allow_null=True)


class ComparisonRowSerializer(serializers.ModelSerializer[Comparison]):
    """A saved comparison in the list, with what it said when it was saved."""

    created_by = serializers.CharField(source="created_by.username", read_only=True)
    verdicts = serializers.SerializerMethodField()

    class Meta:
        model = Comparison
        fields = ("id", "title", "measure", "clock", "quantity", "verdicts", "created_by", "created_at")

    @extend_schema_field(KeptVerdictSerializer(many=True))
    def get_verdicts(self, comparison: Comparison) -> Any:
        """The verdicts that were kept."""
        return KeptVerdictSerializer((comparison.kept or {}).get("pairs", []), many=True).data


class PackageAskSerializer(serializers.Serializer[Any]):
    """Under which license a package is given away."""

    license = serializers.ChoiceField(choices=list(LICENSES), allow_blank=True, default="")


class TitleSerializer(serializers.Serializer[Any]):
    """What a comparison is called."""

    title = serializers.CharField(max_length=160)


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
        report = ComparisonRowSerializer(instance).data | question_of(instance)
        return {
            **report,
            "changes": corrections(instance) + changes(instance.kept, result),
            "result": ResultSerializer(result).data,
        }

    @transaction.atomic
    def create(self, validated_data: dict[str, Any]) -> Comparison:
        """Save the question, its groups and what was found."""
        groups = validated_data.pop("groups")
        comparison = Comparison.objects.create(**validated_data)
        for position, group in enumerate(groups):
            runs = group.pop("runs")
            made = Group.objects.create(comparison=comparison, position=position, **group)
            Member.objects.bulk_create(Member(group=made, run_id=run) for run in runs)
        keep(comparison)
        return comparison


def keep(comparison: Comparison) -> None:
    """Keep what a saved comparison finds now."""
    comparison.kept = kept_of(answer(ask(comparison)))
    comparison.save(update_fields=["kept"])
