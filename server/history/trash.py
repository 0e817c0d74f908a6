"""Deleting rows with all that hangs on them, and bringing them back as they were."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from itertools import chain
from typing import Any

from django.core import serializers
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.models.deletion import Collector
from django.utils import timezone

from history.models import Action, TrashedRow
from history.recorded import has_history, label_of

logger = logging.getLogger(__name__)
KEPT = timedelta(days=30)
AT_ONCE = 200


class ToTheMicrosecond(DjangoJSONEncoder):
    """Rows as JSON with their instants as they were; the usual encoder cuts them to milliseconds."""

    def default(self, o: Any) -> Any:
        """Instants in full, the rest as usual."""
        return o.isoformat() if isinstance(o, datetime) else super().default(o)


class _Whole(Collector):
    """Collects every row that a deletion takes out, also where the database would need no list of them."""

    def can_fast_delete(self, *args: Any, **kwargs: Any) -> bool:
        return False


def hanging_on(rows: Sequence[models.Model]) -> list[models.Model]:
    """The rows and all that go with them. Raises ProtectedError or RestrictedError where something else needs one."""
    return list(chain.from_iterable(_collected(rows).data.values()))


def let_go(rows: Sequence[models.Model]) -> list[models.Model]:
    """The rows with a history that refer to what is deleted and stay, without the reference."""
    updates: Any = _collected(rows).field_updates.values()
    found = chain.from_iterable(chain.from_iterable(updates))
    return [row for row in found if has_history(type(row))]


def discard(rows: Sequence[models.Model], action: Action) -> None:
    """Delete rows with all that hangs on them, into the trash."""
    collected = _collected(rows)
    TrashedRow.objects.bulk_create(
        (
            TrashedRow(
                action=action,
                model=label_of(model),
                data=serializers.serialize("json", [row], cls=ToTheMicrosecond),
            )
            for model, instances in collected.data.items()
            for row in instances
        ),
        batch_size=AT_ONCE,
    )
    collected.delete()


def bring_back(action: Action) -> list[models.Model]:
    """Store the rows that an action deleted again. Raises IntegrityError where others stand in their place."""
    rows: dict[type[models.Model], list[models.Model]] = {}
    for trashed in action.trashed_rows.all():
        for found in serializers.deserialize("json", trashed.data, ignorenonexistent=True):
            rows.setdefault(type(found.object), []).append(found.object)
    for model in _parents_first(rows):
        insert(model, rows[model])
    action.trashed_rows.all().delete()
    return list(chain.from_iterable(rows.values()))


def kept(model: type[models.Model]) -> list[dict[str, Any]]:
    """The fields of the rows of a model that are in the trash."""
    rows = TrashedRow.objects.filter(model=label_of(model)).values_list("data", flat=True)
    return [row["fields"] for data in rows for row in json.loads(data)]


def empty() -> int:
    """Delete for good what has been in the trash for longer than thirty days; how many rows that were."""
    gone = TrashedRow.objects.filter(action__done_at__lt=timezone.now() - KEPT).delete()[0]
    if gone:
        logger.info("emptied the trash of %d rows that were deleted more than %d days ago", gone, KEPT.days)
    return gone


def _collected(rows: Sequence[models.Model]) -> _Whole:
    collected = _Whole(using="default")
    for row in rows:
        collected.collect([row])
    return collected


def insert(model: type[models.Model], rows: Sequence[models.Model], at_once: int = AT_ONCE) -> None:
    """Store rows as they were, with the times at which they were made."""
    stamped = [field for field in model._meta.concrete_fields if getattr(field, "auto_now_add", False)]
    stamps = [[getattr(row, field.attname) for field in stamped] for row in rows]
    model._base_manager.bulk_create(rows, batch_size=at_once)
    if stamped:
        for row, values in zip(rows, stamps, strict=True):
            for field, value in zip(stamped, values, strict=True):
                setattr(row, field.attname, value)
        model._base_manager.bulk_update(rows, [field.name for field in stamped], batch_size=at_once)


def _parents_first(found: Iterable[type[models.Model]]) -> list[type[models.Model]]:
    """Models in an order in which none refers to a later one."""
    left, order = list(found), []
    while left:
        ready = [model for model in left if not _refers_to(model) & (set(left) - {model})]
        order += ready
        left = [model for model in left if model not in ready]
    return order


def _refers_to(model: type[models.Model]) -> set[Any]:
    return {field.related_model for field in model._meta.concrete_fields if field.is_relation}
