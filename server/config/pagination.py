"""Lists come in pages."""

from rest_framework.pagination import PageNumberPagination


class Pages(PageNumberPagination):
    """Fifty rows a page, at most five hundred."""

    page_size = 50
    page_size_query_param = "page_size"
    max_page_size = 500
