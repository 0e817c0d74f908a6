"""How requests are answered: each as a whole in one of a fixed number of threads, which keep their connection.

Django's own handler makes a thread and a connection to the database for every request, and changes threads between
middleware and view; that takes longer than many an answer.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIHandler
from django.db import close_old_connections
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from config.guard import AT_ONCE

_threads = ThreadPoolExecutor(AT_ONCE, "answering")


class ThreadedHandler(ASGIHandler):
    """Django's handler with middleware and view in one of the threads; what a view streams comes from the loop."""

    def load_middleware(self, is_async: bool = False) -> None:
        """The middleware, none of which waits for anything."""
        super().load_middleware(is_async=False)

    async def get_response_async(self, request: HttpRequest) -> HttpResponseBase:
        """The answer to a request."""
        answered: HttpResponseBase = await sync_to_async(self._answer, thread_sensitive=False, executor=_threads)(
            request
        )
        return answered

    def _answer(self, request: HttpRequest) -> HttpResponseBase:
        close_old_connections()  # one that has broken, or is old
        return self.get_response(request)
