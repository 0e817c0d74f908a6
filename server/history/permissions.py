"""Who may delete what: whoever made it, also where only its history says who that was."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from rest_framework.request import Request

from accounts.models import User
from accounts.permissions import ReadersReadTestersWrite
from history.models import ChangeKind, changes_of
from history.recorded import has_history

if TYPE_CHECKING:
    from rest_framework.views import APIView


class MakersDelete(ReadersReadTestersWrite):
    """What a person made they may delete; what others made only administrators delete."""

    def has_object_permission(self, request: Request, view: APIView, obj: Any) -> bool:
        """By what is recorded of the row, or by who added it."""
        if super().has_object_permission(request, view, obj):
            return True
        self.message = "Someone else made this. Ask them, or an administrator, to delete it."
        return isinstance(request.user, User) and added_by(obj, request.user)


def added_by(obj: Any, person: User) -> bool:
    """Whether a person added a row."""
    return has_history(type(obj)) and changes_of(obj).filter(kind=ChangeKind.ADDED, action__person=person).exists()
