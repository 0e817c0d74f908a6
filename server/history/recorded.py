"""Which rows have a history, and how they stand: what of a model people record, and what belongs to what."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from functools import cache
from typing import Any, TypeVar

from django.db import models

Row = TypeVar("Row", bound=models.Model)
Model = type[models.Model]
Key = tuple[str, int]


@dataclass(frozen=True)
class _Recorded:
    fields: tuple[str, ...]
    owner: str
    named_by: tuple[str, ...]


_MODELS: dict[Model, _Recorded] = {}


@dataclass(frozen=True)
class Standing:
    """How a row stands: its name, its fields as JSON has them, the row that it is a part of, and its revision."""

    label: str
    values: Mapping[str, Any]
    owner: Key | None
    revision: int | None


def label_of(model: Model) -> str:
    """How a model is named in the history, such as `runs.run`."""
    return model._meta.label_lower


def recorded(
    fields: Iterable[str] = (), owner: str = "", named_by: Iterable[str] = ()
) -> Callable[[type[Row]], type[Row]]:
    """Give a model a history.

    `fields` are those that people fill in, or all but the revision; `owner` is the way to the row that its rows are
    parts of, such as `group__comparison`; `named_by` are the relations that the name of a row mentions.
    """

    def decorated(model: type[Row]) -> type[Row]:
        _MODELS[model] = _Recorded(tuple(fields), owner, tuple(named_by))
        return model

    return decorated


def has_history(model: Model) -> bool:
    """Whether changes of its rows are kept."""
    return model in _MODELS


@cache
def fields_of(model: Model) -> tuple[models.Field[Any, Any], ...]:
    """The fields that people fill in."""
    if named := _MODELS[model].fields:
        return tuple(model._meta.get_field(name) for name in named)  # type: ignore[misc]
    return tuple(
        field
        for field in model._meta.concrete_fields
        if not field.primary_key and field.editable and field.name != "revision"
    )


@cache
def parts_of(model: Model) -> tuple[Model, ...]:
    """The models whose rows are parts of this one's."""
    return tuple(part for part in _MODELS if _owner_model(part) is model)


@cache
def _owner_model(part: Model) -> Model | None:
    found: Any = part
    for name in filter(None, _MODELS[part].owner.split("__")):
        found = found._meta.get_field(name).related_model
    return None if found is part else found


def standings(model: Model, rows: Iterable[int]) -> dict[Key, Standing]:
    """How rows of a model and their parts stand, in one query a model."""
    numbers = set(rows)
    found = dict(_standings(model, pk__in=numbers))
    for part in parts_of(model):
        found |= _standings(part, **{f"{_MODELS[part].owner}__in": numbers})
    return found


def _standings(model: Model, **chosen: Any) -> Iterator[tuple[Key, Standing]]:
    about, owner_model = _MODELS[model], _owner_model(model)
    rows: Any = model._base_manager.filter(**chosen).select_related(*about.named_by)
    if about.owner:
        rows = rows.annotate(owner_number=models.F(f"{about.owner}_id"))
    for row in rows:
        values = {field.name: plain(field.value_from_object(row)) for field in fields_of(model)}
        owner = (label_of(owner_model), row.owner_number) if owner_model else None
        yield (label_of(model), row.pk), Standing(str(row)[:200], values, owner, getattr(row, "revision", None))


def plain(value: Any) -> Any:
    """A value as JSON has it, to the last digit."""
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value) if isinstance(value, Decimal) else value
