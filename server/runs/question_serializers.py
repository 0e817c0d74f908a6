"""Questions about what was entered as the API asks them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rest_framework import serializers

from coombe_core.flags.entered import Asked
from coombe_core.wording.questions import question


class SentenceField(serializers.CharField):
    """A question as a sentence."""

    def to_representation(self, value: Asked) -> str:  # type: ignore[override]
        """The sentence."""
        return question(value)


class AskedSerializer(serializers.Serializer[Any]):
    """A question about a field, and the value (SI) that was probably meant, where there is one."""

    field = serializers.CharField()
    sentence = SentenceField(source="*")
    suggestion = serializers.FloatField(allow_null=True)


def written(asked: Sequence[Asked]) -> list[dict[str, Any]]:
    """Questions with their sentences."""
    return list(AskedSerializer(asked, many=True).data)
