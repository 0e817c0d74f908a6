"""How tables are read whose headings somebody named, over the API."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from rest_framework import mixins, serializers

from config.revisions import RevisedSerializer
from history.viewsets import KeepsHistory
from runs.layouts import name
from runs.models import TableColumn, TableLayout

TIMES = {"utc", "elapsed_s"}
SPEEDS = {"speed_mps", "speed_kmh", "speed_mph", "speed_kn"}


class TableColumnSerializer(serializers.ModelSerializer[TableColumn]):
    """A heading and what it means."""

    class Meta:
        model = TableColumn
        fields = ("heading", "meaning")


class TableLayoutSerializer(RevisedSerializer[TableLayout]):
    """What the headings of a table mean, for every file with the same headings."""

    columns = TableColumnSerializer(many=True)
    named_by = serializers.CharField(source="named_by.username", read_only=True)

    class Meta:
        model = TableLayout
        fields = ("id", "columns", "named_by", "named_at", "revision")

    def validate_columns(self, columns: list[dict[str, str]]) -> list[dict[str, str]]:
        """The headings that it has, among them the time and a speed."""
        assert self.instance
        mine = {column.heading for column in self.instance.columns.all()}
        if {column["heading"] for column in columns} != mine:
            raise serializers.ValidationError(f"Name the headings {', '.join(sorted(mine))}, no others.")
        chosen = {column["meaning"] for column in columns}
        if not chosen & TIMES or not chosen & SPEEDS:
            raise serializers.ValidationError("Say which column is the time and which the speed.")
        return columns

    def update(self, instance: TableLayout, validated_data: dict[str, Any]) -> TableLayout:
        """The headings with their other meanings."""
        with transaction.atomic():
            self.lock(instance, validated_data)
            name(instance, {column["heading"]: column["meaning"] for column in validated_data["columns"]})
            instance.revision = validated_data["revision"]
            instance.save(update_fields=["revision"])
        return instance


class TableLayoutViewSet(
    KeepsHistory[TableLayout],
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
):
    """Columns that somebody named while importing a table: list, correct, forget."""

    queryset = TableLayout.objects.select_related("named_by").prefetch_related("columns")
    serializer_class = TableLayoutSerializer
    http_method_names = ["get", "patch", "delete", "head", "options"]
