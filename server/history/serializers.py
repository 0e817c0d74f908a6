"""Actions and their changes as the API shows them."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from accounts.models import User
from history.models import Action, Change


class ChangedFieldSerializer(serializers.Serializer[Any]):
    """A field that was changed, in the units of its name."""

    name = serializers.CharField()
    old = serializers.JSONField(allow_null=True)
    new = serializers.JSONField(allow_null=True)


class ChangeSerializer(serializers.ModelSerializer[Change]):
    """What became of a row, field by field."""

    fields_changed = serializers.SerializerMethodField()

    class Meta:
        model = Change
        fields = ("kind", "model", "row", "label", "fields_changed")
        read_only_fields = ("kind", "model", "row", "label")

    @extend_schema_field(ChangedFieldSerializer(many=True))
    def get_fields_changed(self, change: Change) -> Any:
        """Rows that a field refers to by what they were called then."""
        pairs = change.values | change.names
        return [{"name": name, "old": old, "new": new} for name, (old, new) in pairs.items()]


class ActionSerializer(serializers.ModelSerializer[Action]):
    """Something that a person did; `change_count` may be more than the changes that are listed."""

    person = serializers.CharField(source="person.username", read_only=True)
    change_count = serializers.IntegerField(read_only=True)
    undone = serializers.SerializerMethodField()
    may_undo = serializers.SerializerMethodField()
    changes = ChangeSerializer(source="listed_changes", many=True, read_only=True)

    class Meta:
        model = Action
        fields = ("id", "title", "person", "done_at", "change_count", "undone", "may_undo", "changes")
        read_only_fields = ("title", "done_at")

    def get_undone(self, action: Action) -> bool:
        """Whether it was taken back."""
        return hasattr(action, "undone_by")

    def get_may_undo(self, action: Action) -> bool:
        """Whether the person who asks may take it back; whether it still can be shows when it is tried."""
        return not hasattr(action, "undone_by") and may_undo(action, self.context["request"].user)


def may_undo(action: Action, person: User) -> bool:
    """Whoever did it, while they may write, and administrators."""
    return person.may_delete or (person.may_write and action.person_id == person.pk)
