"""Optimistic locking: whoever changes something says which revision they read; a stale change is refused, not merged.

Concurrency control by version number as in any text on the subject; the row is locked only while it is written.
"""

from __future__ import annotations

from typing import Any, TypeVar

from django.db import models, transaction
from rest_framework import serializers

from config.columns import ColumnsSerializer
from config.errors import Conflict

Row = TypeVar("Row", bound=models.Model)
STALE = "Someone else changed this in the meantime. Nothing was saved. Compare both, then save again."


def locked(row: Row, revision: int, shown: Any = None) -> Row:
    """The row as it stands now, locked until the transaction ends.

    Raises Conflict where it is not at `revision` any more, with `shown(row)` as how it stands now.
    """
    row.refresh_from_db(from_queryset=type(row)._base_manager.select_for_update())
    if row.revision != revision:  # type: ignore[attr-defined]
        raise Conflict(STALE, shown(row) if shown else None)
    return row


class RevisedSerializer(ColumnsSerializer[Row]):
    """A row that two people may edit at once. Changing it takes the revision that was read."""

    revision = serializers.IntegerField(required=False, help_text="as it was read; a change must state it")

    def validate_revision(self, value: int) -> int:
        """Any number: whether it is the right one shows when the row is locked."""
        return value

    def create(self, validated_data: dict[str, Any]) -> Row:
        """The row at its first revision."""
        validated_data.pop("revision", None)
        return super().create(validated_data)

    def update(self, instance: Row, validated_data: dict[str, Any]) -> Row:
        """The row changed, a revision further. Raises Conflict where somebody else was quicker."""
        with transaction.atomic():
            self.lock(instance, validated_data)
            return super().update(instance, validated_data)

    def lock(self, instance: Row, validated_data: dict[str, Any]) -> None:
        """Lock the row for a change and count it; for serializers that save in ways of their own."""
        revision = validated_data.pop("revision", None)
        if revision is None:
            raise serializers.ValidationError({"revision": ["Say which revision you read."]})
        locked(instance, revision, lambda row: type(self)(row, context=self.context).data)
        validated_data["revision"] = revision + 1
