"""Lists come in pages."""

from __future__ import annotations

from typing import Any

from rest_framework.pagination import PageNumberPagination
from rest_framework.request import Request


class Pages(PageNumberPagination):
    """Fifty rows a page, at most five hundred."""

    page_size = 50
    page_size_query_param = "page_size"
    max_page_size = 500


class Keys:
    """The keys of a list, as a paginator takes them: counted, and read a page at a time."""

    def __init__(self, rows: Any) -> None:
        self.rows = rows

    def count(self) -> int:
        """How many there are."""
        return int(self.rows.count())

    def __getitem__(self, page: slice) -> list[int]:
        """Those of a page; a list that knows a shorter way to its keys goes it."""
        if hasattr(self.rows, "keys"):
            return list(self.rows.keys(page.start or 0, min(page.stop, self.count())))
        return list(self.rows.values_list("pk", flat=True)[page])


class NarrowPages(Pages):
    """Pages of wide rows: sorted by their keys alone, and only the page's rows are read in full."""

    def paginate_queryset(self, queryset: Any, request: Request, view: Any = None) -> list[Any] | None:
        """The rows of the page, in order."""
        keys: list[int] | None = super().paginate_queryset(Keys(queryset), request, view)  # type: ignore[arg-type]
        if keys is None:
            return None
        found = view.rows_of(keys)
        return [found[key] for key in keys if key in found]
