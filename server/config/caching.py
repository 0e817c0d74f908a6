"""What the API answers stays out of every cache: the next person at the same browser must not find it."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest
from django.http.response import HttpResponseBase

Answer = Callable[[HttpRequest], HttpResponseBase]


def no_store(get_response: Answer) -> Answer:
    """Middleware: forbid storing an answer of the API that does not say for itself how it may be."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        if request.path.startswith("/api/v1/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    return middleware
