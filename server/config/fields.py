"""Fields that several serializers share."""

from __future__ import annotations

from typing import Any

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
