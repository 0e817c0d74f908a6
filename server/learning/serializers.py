"""What a car's own runs teach, as the API shows it."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers


class LearnedSerializer(serializers.Serializer[Any]):
    """A parameter that was learned or assumed, with the ends of its 95 % interval (null where it is open)."""

    value = serializers.FloatField()
    low95 = serializers.FloatField()
    high95 = serializers.FloatField(allow_null=True)
    learned_from = serializers.CharField()
    assumed = serializers.BooleanField()


class BatteryModelSerializer(serializers.Serializer[Any]):
    """What the log has taught of a car's battery."""

    time_constant_min = LearnedSerializer()
    heating_k_per_min = LearnedSerializer()
    charge_share = LearnedSerializer()
    charge_per_run_percent = LearnedSerializer()


class StripAskSerializer(serializers.Serializer[Any]):
    """What to check a strip for: a car's run to a target, such as 100 mph or 1/4 mile."""

    car = serializers.IntegerField()
    target = serializers.CharField(max_length=24)
    outside_temp_c = serializers.FloatField(required=False, allow_null=True)
    tire_season = serializers.CharField(required=False, allow_blank=True, default="")


class StripCheckSerializer(serializers.Serializer[Any]):
    """What the run needs of the strip, part by part, and what would fit."""

    fits = serializers.BooleanField()
    sentence = serializers.CharField()
    basis = serializers.CharField()
    target_mps = serializers.FloatField()
    pull_m = serializers.FloatField()
    reaction_m = serializers.FloatField()
    stopping_m = serializers.FloatField()
    margin_m = serializers.FloatField()
    needed_m = serializers.FloatField()
    available_m = serializers.FloatField()
    shortfall_m = serializers.FloatField()
    highest_mps = serializers.FloatField()
    friction = serializers.FloatField()
    friction_source = serializers.CharField()
    reach_source = serializers.CharField()
