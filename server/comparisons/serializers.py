"""Comparisons as the API shows and takes them. Every pair is the command's `coombe.comparison/1` and more."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from rest_framework import serializers

from comparisons.models import Arm, Comparison, Member, QuantityName
from comparisons.saved import ask, changes, kept_of, question_of
from comparisons.services import answer
from coombe_core.comparing.factors import ADJUSTABLE
from runs.models import ClockName, Run

VERDICTS = ("faster", "slower", "shorter", "longer", "no difference shown", "too few runs", "not comparable")
CHARACTERS = ("launch", "power", "top end", "mixed")
MOST_RUNS, MOST_ARMS = 200, 6


class AskedArmSerializer(serializers.Serializer[Any]):
    """One arm: runs by number, or values typed from elsewhere on the comparison's clock with their source."""

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
            raise serializers.ValidationError({"typed": ["An arm has runs or typed values, not both."]})
        if attrs["typed"] and not attrs["source"].strip():
            raise serializers.ValidationError({"source": ["Say where the typed values come from."]})
        if attrs["typed"] and not attrs["clock"]:
            raise serializers.ValidationError({"clock": ["Say on which clock the typed values are."]})
        return attrs


class AskSerializer(serializers.Serializer[Any]):
    """What to compare, without saving it. The first arm is what the others are compared with."""

    measure = serializers.CharField(max_length=24)
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices, default=QuantityName.TIME)
    arms = AskedArmSerializer(many=True)
    adjust = serializers.ListField(child=serializers.ChoiceField(choices=[(n, n) for n in ADJUSTABLE]), default=list)
    matters = serializers.FloatField(min_value=0.001, max_value=100, allow_null=True, default=None)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """Clocks never mix."""
        for arm in attrs["arms"]:
            if arm["typed"] and arm["clock"] != attrs["clock"]:
                told = f"{arm['name']} is typed on the clock {arm['clock']}; clocks are never mixed."
                raise serializers.ValidationError({"clock": [told]})
        return attrs

    def validate_arms(self, arms: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Two to six arms of different names; a run stands in one only, and must still be there."""
        if not 2 <= len(arms) <= MOST_ARMS:
            raise serializers.ValidationError("Two to six arms are compared.")
        if len({arm["name"] for arm in arms}) < len(arms):
            raise serializers.ValidationError("Give the arms different names.")
        runs = [run for arm in arms for run in arm["runs"]]
        if len(set(runs)) < len(runs):
            raise serializers.ValidationError("A run can't stand in two arms.")
        gone = set(runs) - set(Run.objects.filter(pk__in=runs).values_list("pk", flat=True))
        if gone:
            names = ", ".join(map(str, sorted(gone)))
            raise serializers.ValidationError(f"These runs are gone, deleted meanwhile: {names}.")
        return arms


class SampleSerializer(serializers.Serializer[Any]):
    """One arm's values in a nutshell."""

    n = serializers.IntegerField()
    mean = serializers.FloatField(allow_null=True)
    sd = serializers.FloatField(allow_null=True)
    best = serializers.FloatField(allow_null=True)


class AgainstSerializer(serializers.Serializer[Any]):
    """A measured value less a stated one."""

    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    sentence = serializers.CharField()


class ClaimedSerializer(AgainstSerializer):
    """An arm's mean less what its car's maker claims."""

    claimed_s = serializers.FloatField()
    source = serializers.CharField()  # type: ignore[assignment]  # a name that DRF uses too


class ComparedArmSerializer(SampleSerializer):
    """One arm: its values, out of how many attempts, and what they say of the car's claims."""

    name = serializers.CharField()
    typed = serializers.BooleanField()
    source = serializers.CharField(allow_blank=True)  # type: ignore[assignment]  # a name that DRF uses too
    attempts = serializers.IntegerField()
    claims = ClaimedSerializer(many=True)


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
    low95 = serializers.FloatField(allow_null=True)
    high95 = serializers.FloatField(allow_null=True)


class EffectSerializer(serializers.Serializer[Any]):
    """A likely effect with the half-width of its interval."""

    value = serializers.FloatField()
    u95 = serializers.FloatField()


class BalanceSerializer(serializers.Serializer[Any]):
    """One factor in both arms, whether it differs, and how much that might explain."""

    factor = serializers.CharField()
    unit = serializers.CharField(allow_blank=True)
    digits = serializers.IntegerField()
    before = serializers.FloatField(allow_null=True)
    after = serializers.FloatField(allow_null=True)
    before_noted = serializers.IntegerField()
    after_noted = serializers.IntegerField()
    before_words = serializers.DictField(child=serializers.IntegerField())
    after_words = serializers.DictField(child=serializers.IntegerField())
    differs = serializers.BooleanField()
    effect = EffectSerializer(allow_null=True)
    source = serializers.CharField(allow_blank=True)  # type: ignore[assignment]  # a name that DRF uses too
    adjusted = serializers.BooleanField()


class AdjustmentSerializer(serializers.Serializer[Any]):
    """What adjusting for a factor took out of the difference."""

    factor = serializers.CharField()
    removed = serializers.FloatField()
    per_unit = serializers.FloatField()
    kind = serializers.CharField()
    source = serializers.CharField()  # type: ignore[assignment]  # a name that DRF uses too


class NextRunsSerializer(serializers.Serializer[Any]):
    """What to run next to settle it."""

    sentence = serializers.CharField()
    runs = serializers.IntegerField(allow_null=True)
    days = serializers.IntegerField()
    interleaved = serializers.BooleanField()
    target = serializers.FloatField(allow_null=True)


class PriceSerializer(serializers.Serializer[Any]):
    """What a tenth of a second cost; `most` is empty where the gain may be none."""

    currency = serializers.CharField(allow_blank=True)
    price = serializers.FloatField()
    value = serializers.FloatField()
    least = serializers.FloatField()
    most = serializers.FloatField(allow_null=True)


class PairSerializer(serializers.Serializer[Any]):
    """One arm against the first."""

    schema = serializers.CharField()
    core_version = serializers.CharField()
    arm = serializers.IntegerField()
    difference = DifferenceSerializer(allow_null=True)
    raw = DifferenceSerializer(allow_null=True)
    unit = serializers.CharField()
    better = serializers.BooleanField(allow_null=True)
    test = serializers.CharField(allow_null=True)
    p_value = serializers.FloatField(allow_null=True)
    p_adjusted = serializers.FloatField(allow_null=True)
    degrees = serializers.FloatField(allow_null=True)
    permutation_p = serializers.FloatField(allow_null=True)
    smallest_shown = serializers.FloatField(allow_null=True)
    verdict = serializers.ChoiceField(choices=VERDICTS)
    sentence = serializers.CharField()
    reasons = serializers.ListField(child=serializers.CharField())
    bands = BandSerializer(many=True)
    character = serializers.ChoiceField(choices=CHARACTERS, allow_null=True)
    parted_at = serializers.FloatField(allow_null=True)
    adjustments = AdjustmentSerializer(many=True)
    refused = serializers.DictField(child=serializers.CharField())
    balance = BalanceSerializer(many=True)
    separating = serializers.ListField(child=serializers.CharField())
    next = NextRunsSerializer(allow_null=True)
    price = PriceSerializer(allow_null=True)
    promise = AgainstSerializer(allow_null=True)


class MemberSerializer(serializers.Serializer[Any]):
    """A run in an arm with its value, or why it dropped out."""

    id = serializers.IntegerField()
    arm = serializers.IntegerField()
    start_utc = serializers.DateTimeField()
    set_up_name = serializers.CharField()
    direction = serializers.CharField(allow_blank=True)
    charge_before_percent = serializers.FloatField(allow_null=True)
    pack_temp_before_c = serializers.FloatField(allow_null=True)
    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    dropped = serializers.CharField(allow_blank=True)


class ResultSerializer(serializers.Serializer[Any]):
    """What a comparison found."""

    measure = serializers.CharField()
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices)
    field = serializers.CharField()
    arms = ComparedArmSerializer(many=True)
    pairs = PairSerializer(many=True)
    runs = MemberSerializer(many=True)


class DrawnSerializer(serializers.Serializer[Any]):
    """A mean curve and the interval of the mean."""

    x = serializers.ListField(child=serializers.FloatField())
    mean = serializers.ListField(child=serializers.FloatField())
    low95 = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    high95 = serializers.ListField(child=serializers.FloatField(), allow_null=True)


class OverlaysSerializer(serializers.Serializer[Any]):
    """Every arm's mean curve in each picture; empty for an arm without traces."""

    speed_time = DrawnSerializer(many=True)
    speed_distance = DrawnSerializer(many=True)
    acceleration_speed = DrawnSerializer(many=True)


class LeadSerializer(serializers.Serializer[Any]):
    """How far ahead when passing a speed, both having left together."""

    speed_mps = serializers.FloatField()
    ahead_m = serializers.FloatField()


class LeadCurveSerializer(serializers.Serializer[Any]):
    """How far the arm is ahead of the first, over time and over distance."""

    since_s = serializers.ListField(child=serializers.FloatField())
    ahead_m = serializers.ListField(child=serializers.FloatField())
    way_m = serializers.ListField(child=serializers.FloatField())
    ahead_s = serializers.ListField(child=serializers.FloatField())
    leads = LeadSerializer(many=True)


class OtherSerializer(DifferenceSerializer):
    """Another measure of the same runs; `p_adjusted` is for all of them at once."""

    measure = serializers.CharField()
    p_value = serializers.FloatField()
    p_adjusted = serializers.FloatField()
    shown = serializers.BooleanField()


class ProjectionSerializer(serializers.Serializer[Any]):
    """An arm's mean at another charge, or why that is refused."""

    arm = serializers.IntegerField()
    charge_percent = serializers.FloatField()
    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    said = serializers.CharField()


class DetailsSerializer(serializers.Serializer[Any]):
    """The rest of a comparison's sheet."""

    overlays = OverlaysSerializer()
    power_speed = DrawnSerializer(many=True)
    elevation = DrawnSerializer(many=True)
    gaps = LeadCurveSerializer(many=True)
    car_length_m = serializers.FloatField()
    others = OtherSerializer(many=True)
    projections = ProjectionSerializer(many=True)


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
    """A saved comparison with its arms, its result, and what has changed since it was saved."""

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
        """Save the question, its arms and what was found."""
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
