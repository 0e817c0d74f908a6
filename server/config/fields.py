"""Fields that several serializers share."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from coombe_core.timing.measures import parse_measure


class MeasureField(serializers.CharField):
    """The exact name of a measure, such as `0-60 mph`; any other text is refused at its field."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(**{"max_length": 24, **kwargs})

    def to_internal_value(self, data: Any) -> str:
        """Its name as the core writes it; empty where that is allowed."""
        name = super().to_internal_value(data)
        try:
            return parse_measure(name).name if name else name
        except ValueError as error:
            raise serializers.ValidationError(f"There is {error}.") from None


class RowSerializer(serializers.Serializer[Any]):
    """Describes rows of plain values, of which an answer has hundreds: they are passed on as they stand."""

    def to_representation(self, instance: Any) -> Any:
        """The row."""
        return instance


@extend_schema_field(str)
class LocalTimeField(serializers.ReadOnlyField):
    """An instant as the clock at its course shows it, for people: `2026-05-09 10:02:31 BST`."""

    def to_representation(self, value: datetime) -> str:
        """As text."""
        return shown_local(value)


def shown_local(instant: datetime) -> str:
    """Day and time by a course's clock, with the short name of its zone."""
    return f"{instant:%Y-%m-%d %H:%M:%S %Z}"
