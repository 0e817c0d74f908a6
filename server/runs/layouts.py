"""Layouts of tables: what their headings mean, named once and remembered."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping

from django.db import transaction

from accounts.models import User
from coombe_core.formats.delimited import headings
from runs.models import TableColumn, TableLayout

HEAD_BYTES = 65_536


def remembered(data: bytes) -> dict[str, str] | None:
    """The layout of the file's headings, where one was named before."""
    layout = TableLayout.objects.filter(headings_sha256=_address(data)).prefetch_related("columns").first()
    return {column.heading: column.meaning for column in layout.columns.all()} if layout else None


def remember(data: bytes, layout: Mapping[str, str], person: User) -> None:
    """Keep a layout for every file with these headings, in place of what was named before."""
    with transaction.atomic():
        TableLayout.objects.filter(headings_sha256=_address(data)).delete()
        kept = TableLayout.objects.create(headings_sha256=_address(data), named_by=person)
        TableColumn.objects.bulk_create(
            TableColumn(layout=kept, heading=heading, meaning=meaning) for heading, meaning in layout.items()
        )


def _address(data: bytes) -> str:
    return hashlib.sha256("\n".join(headings(data[:HEAD_BYTES])).encode()).hexdigest()
