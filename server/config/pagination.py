"""Lists come in pages."""

from __future__ import annotations

from typing import Any

from django.db.models import Model, QuerySet
from rest_framework.pagination import PageNumberPagination
from rest_framework.request import Request


class Pages(PageNumberPagination):
    """Fifty rows a page, at most five hundred."""

    page_size = 50
    page_size_query_param = "page_size"
    max_page_size = 500


class NarrowPages(Pages):
    """Pages of wide rows: sorted by their keys alone, and only the page's rows are read in full."""

    def paginate_queryset(self, queryset: Any, request: Request, view: Any = None) -> list[Any] | None:
        """The rows of the page, in order."""
        keys: list[int] | None = super().paginate_queryset(queryset.values_list("pk", flat=True), request, view)
        if keys is None:
            return None
        rows: QuerySet[Model] = queryset.model._default_manager.filter(pk__in=keys)
        found = {row.pk: row for row in view.with_rows(rows)}
        return [found[key] for key in keys if key in found]
