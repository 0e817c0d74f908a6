"""Who may do what through the API."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from rest_framework.permissions import SAFE_METHODS, BasePermission
from rest_framework.request import Request

from accounts.models import User

if TYPE_CHECKING:
    from rest_framework.views import APIView


class ReadersReadTestersWrite(BasePermission):
    """Everything needs a log-in; writing needs the tester role; what others made only administrators delete.

    A view's `READS` are actions that are asked by POST, since the question is long, and change nothing.
    """

    message = "Your role lets you read, not change, this."

    def has_permission(self, request: Request, view: APIView) -> bool:
        """By the request's method."""
        user = request.user
        if not isinstance(user, User) or not user.is_authenticated:
            return False
        reads = request.method in SAFE_METHODS or getattr(view, "action", "") in getattr(view, "READS", ())
        return reads or user.may_write

    def has_object_permission(self, request: Request, view: APIView, obj: Any) -> bool:
        """Deleting takes whoever made the thing, or an administrator."""
        user = request.user
        if request.method != "DELETE" or not isinstance(user, User):
            return True
        return user.may_delete or maker_of(obj) == user.pk


def maker_of(obj: Any) -> int | None:
    """The number of the person who made something; None where that is not recorded."""
    made_by = getattr(obj, "MADE_BY", None)
    return getattr(obj, f"{made_by}_id") if made_by else None


class AdministratorsWrite(BasePermission):
    """Everybody who is logged in reads; only administrators change."""

    message = "Only administrators change this."

    def has_permission(self, request: Request, view: APIView) -> bool:
        """By the request's method."""
        user = request.user
        if not isinstance(user, User) or not user.is_authenticated:
            return False
        return request.method in SAFE_METHODS or user.may_delete


class AdministratorsOnly(BasePermission):
    """Only administrators look, and change."""

    message = "Only administrators see this."

    def has_permission(self, request: Request, view: APIView) -> bool:
        """Whatever the method."""
        user = request.user
        return isinstance(user, User) and user.is_authenticated and user.may_delete
