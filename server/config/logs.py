"""Log lines: plain text for a terminal, or one JSON object each with the number of the request, for machines.

Every request has a number: the one that a proxy gave it, else one of its own. It is in the answer (`X-Request-ID`), in
every line that the request wrote, and in what a person is shown where something failed.
"""

from __future__ import annotations

import logging
import re
import time
import uuid
from collections.abc import Callable
from typing import Any

import structlog
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.utils.functional import SimpleLazyObject

HEADER = "X-Request-ID"
NUMBER = re.compile(r"^[\w-]{8,64}$")
SECRET = re.compile(r"^(/(?:shared|calendar)/)[^/]+")  # what opens something stays out of logs
QUIET = ("/static/", "/health/")  # asked for all the time, and of no interest one by one
logger = logging.getLogger("coombe.requests")


def configuration(machines: bool) -> dict[str, Any]:
    """Django's LOGGING."""
    shared = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.stdlib.add_logger_name,
        structlog.stdlib.ExtraAdder(),
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.processors.format_exc_info,
    ]
    writing = [structlog.stdlib.ProcessorFormatter.remove_processors_meta, structlog.processors.JSONRenderer()]
    json = {"()": structlog.stdlib.ProcessorFormatter, "foreign_pre_chain": shared, "processors": writing}
    handler = {"class": "logging.StreamHandler"} | ({"formatter": "json"} if machines else {})
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"json": json},
        "handlers": {"console": handler},
        "root": {"handlers": ["console"], "level": "WARNING"},
        "loggers": {
            "coombe.security": {"level": "INFO"},
            "coombe.requests": {"level": "INFO" if machines else "WARNING"},
            "django.request": {"level": "ERROR"},
            "weasyprint": {"level": "ERROR"},
        },
    }


def request_number() -> str:
    """The number of the request that is being answered; empty outside of one."""
    return str(structlog.contextvars.get_contextvars().get("request_id", ""))


class RequestLog:
    """Middleware: numbers each request, and writes a line once it is answered."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Answer it under its number."""
        given = request.headers.get(HEADER, "")
        number = given if NUMBER.match(given) else uuid.uuid4().hex
        began_s = time.perf_counter()
        with structlog.contextvars.bound_contextvars(request_id=number):
            response = self._get_response(request)
            if not request.path.startswith(QUIET):
                _write(request, response, time.perf_counter() - began_s)
        response.headers[HEADER] = number
        return response


def _write(request: HttpRequest, response: HttpResponseBase, took_s: float) -> None:
    facts = {
        "method": request.method,
        "path": SECRET.sub(r"\1…", request.path),
        "status": response.status_code,
        "milliseconds": round(took_s * 1000, 1),
        "person": _person(request),
        "address": request.META.get("REMOTE_ADDR", ""),
    }
    logger.info("answered", extra=facts)


def _person(request: HttpRequest) -> int | None:
    """The number of whoever asked, where that was looked up anyway."""
    known = vars(request).get("_cached_user") or vars(request).get("user")
    return None if type(known) is SimpleLazyObject else getattr(known, "pk", None)
