"""Rows inside of others: sent whole, also where what they belong to is changed in part."""

from __future__ import annotations

from typing import Any, TypeVar

from django.db import models
from rest_framework import serializers

from config.columns import ColumnsSerializer

Row = TypeVar("Row", bound=models.Model)


class WholeSerializer(ColumnsSerializer[Row]):
    """A nested row. A partial change of what is around it lets no field of it be left out."""

    def to_internal_value(self, data: Any) -> Any:
        """Its values. Raises ValidationError for every field that is required and missing."""
        values = super().to_internal_value(data)
        needed = [name for name, field in self.fields.items() if field.required and not field.read_only]
        missing = {name: ["This field is required."] for name in needed if name not in data}
        if missing:
            raise serializers.ValidationError(missing)
        return values
