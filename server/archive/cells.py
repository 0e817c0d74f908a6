"""What a row's values are as text in a table, and back."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models

from accounts.models import User
from archive.contents import AnyField, Model, columns, table_of
from coombe_core.packages.writing import cell
from history.recorded import plain


class ArchiveError(ValueError):
    """An archive that can't be taken in, or made; its text is a sentence."""


TYPES: tuple[tuple[type[AnyField], str], ...] = (
    (models.BooleanField, "boolean"),
    (models.IntegerField, "integer"),
    (models.FloatField, "number"),
    (models.DateTimeField, "datetime"),
    (models.DateField, "date"),
)
READ: Mapping[str, Callable[[str], Any]] = {
    "integer": int,
    "number": float,
    "boolean": lambda text: {"true": True, "false": False}[text],
}


def heading(field: AnyField) -> str:
    """The name of a column: a binary one has the hash of its bytes, one that refers to a person their name."""
    if field.related_model is User:
        return field.name
    name: str = field.attname
    return f"{name}_sha256" if isinstance(field, models.BinaryField) else name


def written(field: AnyField, value: Any) -> object:
    """A value as a table has it."""
    if isinstance(field, models.JSONField):
        return cell(None if value is None else json.dumps(value, ensure_ascii=False))
    return cell(value if value is None or isinstance(value, bool | int | float) else str(plain(value)))


def read(field: AnyField, text: str, where: str) -> Any:
    """A value from a table. Raises ArchiveError naming the place where it is none of its kind."""
    if text == "" and (field.null or not isinstance(field, models.CharField | models.TextField)):
        return None
    text = text.removeprefix("'")
    try:
        if isinstance(field, models.JSONField):
            return json.loads(text)
        if parse := READ.get(_type_of(field)):
            return parse(text)
        by_name = isinstance(field, models.BinaryField) or field.related_model is User
        return text if by_name else field.to_python(text)
    except (ValueError, KeyError, ValidationError):
        raise ArchiveError(f"{where}: {text[:40]!r} is no {heading(field)}") from None


def schema_of(model: Model) -> dict[str, Any]:
    """The Table Schema of a model's table."""
    fields = columns(model)
    refers = [
        {
            "fields": field.attname,
            "reference": {"resource": _resource(field.related_model, model), "fields": "id"},
        }
        for field in fields
        if field.is_relation and field.related_model is not User
    ]
    return {
        "fields": [_described(field) for field in fields],
        "primaryKey": "id",
        "missingValues": [""],
        **({"foreignKeys": refers} if refers else {}),
    }


def _resource(referred: Any, model: Model) -> str:
    return "" if referred is model else table_of(referred)


def _described(field: AnyField) -> dict[str, Any]:
    about = str(field.help_text or field.verbose_name)
    if field.related_model is User:
        about = f"{about}: who that was"
    if isinstance(field, models.BinaryField):
        about = "SHA-256 of the file in traces/"
    return {"name": heading(field), "type": _type_of(field), "description": about}


def _type_of(field: AnyField) -> str:
    if isinstance(field, models.ForeignKey):
        return "string" if field.related_model is User else "integer"
    return next((name for kind, name in TYPES if isinstance(field, kind)), "string")
