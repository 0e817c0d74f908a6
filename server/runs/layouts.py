"""Layouts of tables: what their headings mean, named once and remembered."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping

from django.db import transaction

from accounts.models import User
from coombe_core.formats.delimited import headings
from history.services import act
from runs.models import TableColumn, TableLayout

HEAD_BYTES = 65_536


def remembered(data: bytes) -> dict[str, str] | None:
    """The layout of the file's headings, where one was named before."""
    layout = TableLayout.objects.filter(headings_sha256=_address(data)).prefetch_related("columns").first()
    return meanings(layout) if layout else None


def meanings(layout: TableLayout) -> dict[str, str]:
    """What the headings mean that are used."""
    return {column.heading: column.meaning for column in layout.columns.all() if column.meaning}


def remember(data: bytes, layout: Mapping[str, str], person: User) -> None:
    """Keep a layout for every file with these headings, in place of what was named before."""
    kept = TableLayout.objects.filter(headings_sha256=_address(data)).first()
    named = {heading[:120]: "" for heading in _headings(data)} | dict(layout)
    with act(person, f"Named columns {', '.join(layout)}", *([kept] if kept else [])) as made:
        if kept is None:
            kept = TableLayout.objects.create(headings_sha256=_address(data), named_by=person)
            made.added(kept)
        name(kept, named)


def name(layout: TableLayout, named: Mapping[str, str]) -> None:
    """Give the headings of a layout other meanings."""
    with transaction.atomic():
        layout.columns.all().delete()
        TableColumn.objects.bulk_create(
            TableColumn(layout=layout, heading=heading, meaning=meaning) for heading, meaning in named.items()
        )


def _headings(data: bytes) -> list[str]:
    return headings(data[:HEAD_BYTES])


def _address(data: bytes) -> str:
    return hashlib.sha256("\n".join(_headings(data)).encode()).hexdigest()
