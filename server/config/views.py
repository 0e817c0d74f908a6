"""Addresses of the API where nothing is."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.views import APIView


@extend_schema(exclude=True)
class NothingHere(APIView):
    """Says so, as a problem."""

    permission_classes = [AllowAny]

    def initial(self, request: Request, *args: Any, **kwargs: Any) -> None:
        """Whatever the method."""
        raise NotFound("There is nothing at this address.")
