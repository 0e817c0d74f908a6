"""Filters of lists that refuse what they do not know, so that a typing error is not taken for an answer."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django_filters.rest_framework import DjangoFilterBackend
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request

PAGING = {"page", "page_size"}


class StrictFilterBackend(DjangoFilterBackend):
    """Filters by the parameters that a view declares, and refuses all others."""

    def filter_queryset(self, request: Request, queryset: QuerySet[Any], view: Any) -> QuerySet[Any]:
        """The rows that the parameters leave. Raises ValidationError for a parameter that nothing knows."""
        if PAGING.issuperset(request.query_params) or getattr(view, "detail", False):
            return queryset  # no filter is made of nothing: it would take as long as the rows
        filterset = self.get_filterset(request, queryset, view)
        known = PAGING | set(filterset.filters if filterset else ())
        if getattr(view, "action", None) == "list" and (unknown := set(request.query_params) - known):
            raise ValidationError({name: ["There is no such filter."] for name in sorted(unknown)})
        rows: QuerySet[Any] = super().filter_queryset(request, queryset, view)
        return rows
