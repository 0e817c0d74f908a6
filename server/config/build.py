"""Which build of the web application this server goes with, so that pages from before an upgrade ask to be reloaded."""

from __future__ import annotations

import hashlib
from functools import cache

from django.conf import settings
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from config.caching import Answer

HEADER = "Coombe-Build"


@cache
def build() -> str:
    """A hash of the page that names all scripts; empty where nothing is built."""
    page = settings.WEB_BUILD / "index.html"
    return hashlib.sha256(page.read_bytes()).hexdigest()[:12] if page.exists() else ""


def build_header(get_response: Answer) -> Answer:
    """Middleware: name the build with every answer of the API."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        if request.path.startswith("/api/v1/"):
            response.headers[HEADER] = build()
        return response

    return middleware
