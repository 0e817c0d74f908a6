"""Rows of many columns: a page of a list has thousands of numbers and words, which are passed on as they stand."""

from __future__ import annotations

from contextlib import suppress
from copy import deepcopy
from functools import cache, cached_property
from typing import Any, TypeVar

from django.db import models
from rest_framework import serializers
from rest_framework.fields import SkipField
from rest_framework.utils.model_meta import get_field_info

Row = TypeVar("Row", bound=models.Model)


class PlainRow(dict[str, Any]):
    """A row that was read as what a serializer would show of it, and is passed on."""


class ColumnsSerializer(serializers.ModelSerializer[Row]):
    """A row whose columns are shown as they stand; fields that a class declares for itself are asked one by one."""

    def to_representation(self, instance: Any) -> dict[str, Any]:
        """The row's values."""
        if isinstance(instance, PlainRow):
            return instance
        if isinstance(instance, dict):  # what was validated and is not stored
            return super().to_representation(instance)  # type: ignore[arg-type]
        shown: dict[str, Any] = {name: getattr(instance, column) for name, column in _columns(type(self))}
        for name, field in self._others.items():
            with suppress(SkipField):  # what belongs to a row that is not there
                value = field.get_attribute(instance)
                shown[name] = None if value is None else field.to_representation(value)
        return shown

    @cached_property
    def _others(self) -> dict[str, serializers.Field[Any, Any, Any, Any]]:
        """The fields that are declared; those of the model cost more to make than a page of them to show."""
        made = {name: deepcopy(field) for name, field in self._declared_fields.items() if not field.write_only}
        for name, field in made.items():
            field.bind(field_name=name, parent=self)
        return made


@cache
def _columns(kind: type[ColumnsSerializer[Any]]) -> tuple[tuple[str, str], ...]:
    """The columns that a serializer shows and does not declare: names, each with the attribute that holds it.

    Raises TypeError for a name that is neither: what is no column is declared.
    """
    serializer = kind()
    declared = serializer._declared_fields
    model: type[models.Model] = serializer.Meta.model
    names = [name for name in serializer.get_field_names(declared, get_field_info(model)) if name not in declared]
    stored = {field.name: field.attname for field in model._meta.concrete_fields}
    if unknown := [name for name in names if name not in stored]:
        raise TypeError(f"{kind.__name__} has to declare {', '.join(unknown)}")
    return tuple((name, stored[name]) for name in names)
