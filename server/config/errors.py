"""What the API answers when something is wrong: the field and a sentence, never a traceback."""

from __future__ import annotations

from typing import Any

from django.db import OperationalError
from rest_framework import status
from rest_framework.exceptions import APIException
from rest_framework.response import Response
from rest_framework.views import exception_handler


class DatabaseAway(APIException):
    """The database does not answer."""

    status_code = status.HTTP_503_SERVICE_UNAVAILABLE
    default_detail = "The database does not answer. Nothing was stored; try again when it is back."
    default_code = "database_away"


def told(error: Exception, context: dict[str, Any]) -> Response | None:
    """DRF's answer, with a code beside each sentence; a lost database is 503 and not a crash."""
    if isinstance(error, OperationalError):
        error = DatabaseAway()
    response = exception_handler(error, context)
    if response is not None and isinstance(error, APIException) and isinstance(response.data, dict):
        codes = error.get_codes()
        response.data["code"] = codes if isinstance(codes, str) else "invalid"
    return response
