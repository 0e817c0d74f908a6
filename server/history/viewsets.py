"""What adding, changing and deleting over the API has in common: it is kept, and can be taken back."""

from __future__ import annotations

from contextlib import AbstractContextManager
from typing import Any, TypeVar, cast

from django.db import models
from rest_framework import viewsets
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from history.services import Act, act

Row = TypeVar("Row", bound=models.Model)


class KeepsHistory(viewsets.GenericViewSet[Row]):
    """For view sets of a model with a history; stands before those of the framework."""

    def create(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Add a row."""
        with self.acting("Added") as made:
            answer: Response = super().create(request, *args, **kwargs)  # type: ignore[misc]
            row = self._model()._base_manager.get(pk=answer.data["id"])
            made.added(row)
            made.action.title = self._title("Added", row)
        return answer

    def update(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Change a row."""
        row = self.get_object()
        with self.acting(self.change_title(row), row):
            return cast(Response, super().update(request, *args, **kwargs))  # type: ignore[misc]

    def change_title(self, row: Row) -> str:
        """What a change of a row is called in its history."""
        return self._title("Changed", row)

    def perform_destroy(self, instance: Row) -> None:
        """Delete a row, into the trash."""
        with self.acting(self._title("Deleted", instance)) as made:
            made.delete(instance)

    def acting(self, title: str, *rows: models.Model) -> AbstractContextManager[Act]:
        """Keep what a request does to rows."""
        return act(cast(User, self.request.user), title, *rows)

    def _model(self) -> type[models.Model]:
        return self.get_queryset().model

    def _title(self, verb: str, row: models.Model) -> str:
        return f"{verb} {row._meta.verbose_name} {row}"[:200]
