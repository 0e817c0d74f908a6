"""Who may do what through the API."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rest_framework.permissions import SAFE_METHODS, BasePermission
from rest_framework.request import Request

from accounts.models import User

if TYPE_CHECKING:
    from rest_framework.views import APIView


class ReadersReadTestersWrite(BasePermission):
    """Everything needs a log-in; writing needs the tester role, deleting the administrator role."""

    message = "Your role lets you read, not change, this."

    def has_permission(self, request: Request, view: APIView) -> bool:
        """By the request's method."""
        user = request.user
        if not isinstance(user, User) or not user.is_authenticated:
            return False
        if request.method in SAFE_METHODS:
            return True
        return user.may_delete if request.method == "DELETE" else user.may_write
