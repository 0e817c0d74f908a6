"""One change of many runs as the API takes it and answers."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from cars.models import Setup
from config.fields import LocalTimeField
from history.serializers import ChangedFieldSerializer
from runs.conditions import CONDITION_FIELDS
from runs.models import Validity, VoidReason
from runs.question_serializers import AskedSerializer
from runs.serializers import ConditionsSerializer


class OneOfManySerializer(serializers.Serializer[Any]):
    """A run of many, at the revision that was read, where that matters."""

    id = serializers.IntegerField()
    revision = serializers.IntegerField(required=False)


class ManyChangesSerializer(ConditionsSerializer):
    """What is to change of many runs; a field that is not sent stays as it is in each."""

    setup = serializers.PrimaryKeyRelatedField(queryset=Setup.objects.select_related("car"), required=False)
    validity = serializers.ChoiceField(choices=Validity.choices, required=False)
    void_reason = serializers.ChoiceField(choices=VoidReason.choices, required=False)
    void_note = serializers.CharField(max_length=300, allow_blank=True, required=False)

    class Meta(ConditionsSerializer.Meta):
        fields = ("setup", "validity", "void_reason", "void_note", *CONDITION_FIELDS)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """A run is void for a reason, and one that is kept has none."""
        validity = attrs.get("validity")
        if validity == Validity.VOID and not attrs.get("void_reason"):
            raise serializers.ValidationError({"void_reason": ["Say why these runs are void."]})
        if validity is None:
            return {name: value for name, value in attrs.items() if not name.startswith("void_")}
        decided = {"decided": True, "void_note": attrs.get("void_note", "")}
        return attrs | decided if validity == Validity.VOID else attrs | decided | {"void_reason": ""}


class ChangeManySerializer(serializers.Serializer[Any]):
    """One change of many runs; without `apply` it is a preview."""

    MOST = 2000

    runs = OneOfManySerializer(many=True, allow_empty=False)
    changes = ManyChangesSerializer(partial=True)
    apply = serializers.BooleanField(default=False)

    def validate_runs(self, rows: list[dict[str, int]]) -> list[dict[str, int]]:
        """As many as one action takes, each once."""
        if len(rows) > self.MOST:
            raise serializers.ValidationError(f"Select {self.MOST} runs at most; these are {len(rows)}.")
        return list({row["id"]: row for row in rows}.values())


class OneChangeSerializer(OneOfManySerializer):
    """A run of several, with what is to change of it alone."""

    changes = ManyChangesSerializer(partial=True)


class ChangeEachSerializer(serializers.Serializer[Any]):
    """Changes of several runs, each its own, as a grid makes them; all of them or none."""

    runs = OneChangeSerializer(many=True, allow_empty=False)

    def validate_runs(self, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """As many as one action takes, each once."""
        if len(rows) > ChangeManySerializer.MOST:
            raise serializers.ValidationError(
                f"Change {ChangeManySerializer.MOST} runs at most; these are {len(rows)}."
            )
        if len({row["id"] for row in rows}) < len(rows):
            raise serializers.ValidationError("A run is named twice.")
        return rows


class RunEffectSerializer(serializers.Serializer[Any]):
    """What a change does to one run."""

    id = serializers.IntegerField()
    revision = serializers.IntegerField()
    start_utc = serializers.DateTimeField()
    start_local = LocalTimeField()
    name = serializers.CharField()
    fields_changed = ChangedFieldSerializer(many=True)


class ChangedManySerializer(serializers.Serializer[Any]):
    """What a change of many runs does, or did."""

    sentence = serializers.CharField()
    changed = serializers.IntegerField()
    unchanged = serializers.IntegerField()
    retimed = serializers.IntegerField()
    effects = RunEffectSerializer(many=True)
    questions = AskedSerializer(many=True)


class RunIdsSerializer(serializers.Serializer[Any]):
    """Runs by their numbers."""

    ids = serializers.ListField(child=serializers.IntegerField())
