"""Says in an answer which action a request was, so that a page can offer to take it back."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from history.services import latest

HEADER = "Coombe-Action"


def action_header(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """The number of the action that a request was, in a header."""

    def middleware(request: HttpRequest) -> HttpResponse:
        token = latest.set(None)
        try:
            answer = get_response(request)
            made = latest.get()
            if made is not None:
                answer[HEADER] = str(made)
            return answer
        finally:
            latest.reset(token)

    return middleware
