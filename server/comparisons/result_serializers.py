"""What a comparison found, as the API shows it. Every pair is the command's `coombe.comparison/2` and more."""

from __future__ import annotations

from typing import Any, get_args

from rest_framework import serializers

from comparisons.models import QuantityName
from config.fields import LocalTimeField, RowSerializer
from coombe_core.comparing.comparison import Verdict
from runs.models import ClockName

VERDICTS = get_args(Verdict)
CHARACTERS = ("launch", "power", "top end", "mixed")


class SampleSerializer(serializers.Serializer[Any]):
    """One group's values in a nutshell."""

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
    """A group's mean less what its car's maker claims."""

    claimed_s = serializers.FloatField()
    source = serializers.CharField()  # type: ignore[assignment]  # a name that DRF uses too


class ComparedGroupSerializer(SampleSerializer):
    """One group: its values, out of how many attempts, and what they say of the car's claims."""

    name = serializers.CharField()
    from_elsewhere = serializers.BooleanField()
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


class ConditionDifferenceSerializer(serializers.Serializer[Any]):
    """One factor in both groups, whether it differs, and how much that could account for."""

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
    sentence = serializers.CharField()


class PairSerializer(serializers.Serializer[Any]):
    """One group against the first."""

    schema = serializers.CharField()
    core_version = serializers.CharField()
    group = serializers.IntegerField()
    difference = DifferenceSerializer(allow_null=True)
    unadjusted = DifferenceSerializer(allow_null=True)
    unit = serializers.CharField()
    better = serializers.BooleanField(allow_null=True)
    test = serializers.CharField(allow_null=True)
    p_value = serializers.FloatField(allow_null=True)
    confidence_better = serializers.FloatField(allow_null=True)
    p_adjusted = serializers.FloatField(allow_null=True)
    dof = serializers.FloatField(allow_null=True)
    permutation_p = serializers.FloatField(allow_null=True)
    detectable = serializers.FloatField(allow_null=True)
    verdict = serializers.ChoiceField(choices=VERDICTS)
    sentence = serializers.CharField()
    reasons = serializers.ListField(child=serializers.CharField())
    bands = BandSerializer(many=True)
    character = serializers.ChoiceField(choices=CHARACTERS, allow_null=True)
    parted_at = serializers.FloatField(allow_null=True)
    adjustments = AdjustmentSerializer(many=True)
    refused = serializers.DictField(child=serializers.CharField())
    condition_differences = ConditionDifferenceSerializer(many=True)
    separating = serializers.ListField(child=serializers.CharField())
    next = NextRunsSerializer(allow_null=True)
    price = PriceSerializer(allow_null=True)
    claimed_gain = AgainstSerializer(allow_null=True)


class MemberSerializer(RowSerializer):
    """A run in a group with its value, or why it dropped out."""

    id = serializers.IntegerField()
    group = serializers.IntegerField()
    start_utc = serializers.DateTimeField()
    start_local = LocalTimeField()
    setup_name = serializers.CharField()
    direction = serializers.CharField(allow_blank=True)
    charge_before_percent = serializers.FloatField(allow_null=True)
    battery_temp_before_c = serializers.FloatField(allow_null=True)
    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    dropped = serializers.CharField(allow_blank=True)


class ResultSerializer(serializers.Serializer[Any]):
    """What a comparison found."""

    measure = serializers.CharField()
    clock = serializers.ChoiceField(choices=ClockName.choices)
    quantity = serializers.ChoiceField(choices=QuantityName.choices)
    field = serializers.CharField()
    groups = ComparedGroupSerializer(many=True)
    pairs = PairSerializer(many=True)
    runs = MemberSerializer(many=True)


class DrawnSerializer(RowSerializer):
    """A mean curve and the interval of the mean."""

    x = serializers.ListField(child=serializers.FloatField())
    mean = serializers.ListField(child=serializers.FloatField())
    low95 = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    high95 = serializers.ListField(child=serializers.FloatField(), allow_null=True)


class OverlaysSerializer(serializers.Serializer[Any]):
    """Every group's mean curve in each picture; empty for a group without traces."""

    speed_time = DrawnSerializer(many=True)
    speed_distance = DrawnSerializer(many=True)
    acceleration_speed = DrawnSerializer(many=True)


class LeadSerializer(serializers.Serializer[Any]):
    """How far ahead when passing a speed, both having left together."""

    speed_mps = serializers.FloatField()
    ahead_m = serializers.FloatField()


class LeadCurveSerializer(RowSerializer):
    """How far the group is ahead of the first, over time and over distance."""

    since_s = serializers.ListField(child=serializers.FloatField())
    ahead_m = serializers.ListField(child=serializers.FloatField())
    distance_m = serializers.ListField(child=serializers.FloatField())
    ahead_s = serializers.ListField(child=serializers.FloatField())
    leads = LeadSerializer(many=True)
    sentence = serializers.CharField(allow_blank=True)


class OtherSerializer(DifferenceSerializer):
    """Another measure of the same runs; `p_adjusted` is for all of them at once."""

    measure = serializers.CharField()
    p_value = serializers.FloatField()
    confidence_better = serializers.FloatField(allow_null=True)
    p_adjusted = serializers.FloatField()
    shown = serializers.BooleanField()


class ProjectedSerializer(serializers.Serializer[Any]):
    """A projected value and from what, or why that is refused."""

    value = serializers.FloatField(allow_null=True)
    u95 = serializers.FloatField(allow_null=True)
    sentence = serializers.CharField()


class ProjectionSerializer(ProjectedSerializer):
    """A group's mean at another charge."""

    group = serializers.IntegerField()
    charge_percent = serializers.FloatField()


class UnreachedSerializer(ProjectedSerializer):
    """What a pull that was lifted would have taken."""

    run = serializers.IntegerField()
    start_utc = serializers.DateTimeField()
    start_local = LocalTimeField()


class DetailsSerializer(serializers.Serializer[Any]):
    """The rest of a comparison's sheet."""

    overlays = OverlaysSerializer()
    power_speed = DrawnSerializer(many=True)
    elevation = DrawnSerializer(many=True)
    gaps = LeadCurveSerializer(many=True)
    car_length_m = serializers.FloatField()
    others = OtherSerializer(many=True)
    projections = ProjectionSerializer(many=True)
    unreached = UnreachedSerializer(many=True)
