"""Doing again, as a whole, what the database gave up for something else.

InnoDB rolls one of two transactions back that wait for each other. In a cluster a node does the same, at the commit,
where another node changed a row first: row locks hold on one node alone, so what decides are revisions, which the
second attempt reads anew. A request is carried out again, too, where the database went away under it: a balancer has
found another node by then. Only what has committed nothing, for sure, is done again.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from django.db import OperationalError, connection
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from config.connections import AWAY, release_connections
from config.mariadb.base import is_given_up

TRIES = 5
LONGEST_PAUSE_S = 0.1  # before the second; twice as long before each further one
AWAY_PAUSE_S = 0.3  # the same, where the database went away
PATIENT_TRIES = 8  # 38 s in all
READS = ("GET", "HEAD", "OPTIONS")
JSON = "application/json"
draw = random.SystemRandom()

Given = ParamSpec("Given")
Made = TypeVar("Made")


def whole(act: Callable[Given, Made]) -> Callable[Given, Made]:
    """Decorate what is one transaction: it is carried out again where the database gave it up.

    Within another transaction it is a part, and whoever has the whole carries that out again.
    """

    @wraps(act)
    def carried_out(*args: Given.args, **kwargs: Given.kwargs) -> Made:
        for attempt in range(TRIES - 1):
            try:
                return act(*args, **kwargs)
            except OperationalError as error:
                if not is_given_up(error) or connection.in_atomic_block:
                    raise
                pause(attempt)
        return act(*args, **kwargs)

    return carried_out


def patiently(act: Callable[Given, Made], tries: int = PATIENT_TRIES) -> Callable[Given, Made]:
    """Decorate what may be begun anew at any point: carried out again while the database is away.

    For work that knows what an attempt before it has stored. Half a minute is for what nobody waits for with a browser;
    a request has `TRIES`, five seconds.
    """

    @wraps(act)
    def carried_out(*args: Given.args, **kwargs: Given.kwargs) -> Made:
        for attempt in range(tries - 1):
            try:
                return act(*args, **kwargs)
            except AWAY:
                pause_for_another(attempt)
        return act(*args, **kwargs)

    return carried_out


def pause(attempt: int) -> None:
    """Wait for as long as chance says, so that two that met do not meet again."""
    time.sleep(draw.uniform(0.0, LONGEST_PAUSE_S * 2.0**attempt))


def pause_for_another(attempt: int) -> None:
    """Leave the connection that broke, and wait until there may be another node."""
    release_connections()
    time.sleep(AWAY_PAUSE_S * 2.0**attempt)


class AskAgain:
    """Middleware: carries a request out again that committed nothing when the database gave it up or went away.

    Of what changes something JSON comes again, and what nobody has read yet: files may have been moved meanwhile.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """The answer of the last attempt."""
        if request.method not in READS and request.content_type == JSON:
            request.body  # noqa: B018 - kept by the request, for whoever reads it again
        for attempt in range(TRIES - 1):
            committed = _commits()
            response, error = self._attempt(request)
            if not isinstance(error, AWAY) or committed != _commits() or not _comes_again(request):
                return response
            pause(attempt) if is_given_up(error) else pause_for_another(attempt)
        return self._get_response(request)

    def _attempt(self, request: HttpRequest) -> tuple[HttpResponseBase, object]:
        """An answer, and what of the database refused it."""
        with connection.execute_wrapper(_counting):
            response = self._get_response(request)
        return response, getattr(response, "database_error", None)


def _comes_again(request: HttpRequest) -> bool:
    """Whether all of a request is still there."""
    return request.method in READS or request.content_type == JSON or not getattr(request, "_read_started", True)


def _commits() -> int:
    return getattr(connection, "commits", 0)


def _counting(execute: Callable[..., Any], sql: str, params: Any, many: bool, context: dict[str, Any]) -> Any:
    """Count a change outside of any transaction, which commits by itself."""
    wrapper = context["connection"]
    alone = not wrapper.in_atomic_block and not sql.lstrip("( ").upper().startswith(("SELECT", "SET", "SHOW"))
    try:
        return execute(sql, params, many, context)
    except Exception as error:
        alone = alone and isinstance(error, AWAY) and not is_given_up(error)  # it may have come through
        raise
    finally:
        wrapper.commits += alone
