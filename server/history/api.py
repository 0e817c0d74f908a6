"""What was changed, and taking it back, over the API."""

from __future__ import annotations

from typing import cast

import django_filters
from django.core.exceptions import PermissionDenied
from django.db.models import Count, Prefetch, Q, QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import status, viewsets
from rest_framework.decorators import action as extra
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from history.models import Action, Change
from history.serializers import ActionSerializer, may_undo
from history.services import undo

LISTED = 20


class ActionFilter(django_filters.FilterSet):  # type: ignore[misc]
    """The actions that touched a row or its parts."""

    of = django_filters.CharFilter(method="touching", label="a row, such as cars.setup:12")

    class Meta:
        model = Action
        fields = ("of",)

    def touching(self, actions: QuerySet[Action], name: str, value: str) -> QuerySet[Action]:
        """Those with a change of the row or of a part of it."""
        return actions.filter(pk__in=Change.objects.filter(of_row(value)).values("action"))


def of_row(value: str) -> Q:
    """The changes of a row and of its parts; none where the text names no row."""
    model, _, number = value.partition(":")
    if not number.isdecimal():
        return Q(pk=None)
    return Q(model=model, row=number) | Q(owner_model=model, owner_row=number)


class ActionViewSet(viewsets.ReadOnlyModelViewSet[Action]):
    """What people did, newest first: all of it, or what touched one row and its parts."""

    serializer_class = ActionSerializer
    filterset_class = ActionFilter

    def get_queryset(self) -> QuerySet[Action]:
        """Actions with the changes that are asked for."""
        asked = self.request.query_params.get("of", "") if self.request else ""
        changes = Change.objects.filter(of_row(asked)) if asked else Change.objects.all()
        return (
            Action.objects.select_related("person", "undone_by")
            .annotate(change_count=Count("changes"))
            .prefetch_related(Prefetch("changes", changes[:LISTED], to_attr="listed_changes"))
            .order_by("-done_at", "-id")
        )

    @extend_schema(request=None, responses=ActionSerializer)
    @extra(detail=True, methods=["post"])
    def undo(self, request: Request, pk: str | None = None) -> Response:
        """Take an action back, unless what it changed has changed again since: 409 then, and nothing is changed."""
        found, person = self.get_object(), cast(User, request.user)
        if not may_undo(found, person):
            raise PermissionDenied
        made = undo(found, person)
        return Response(self.get_serializer(self.get_queryset().get(pk=made.pk)).data, status=status.HTTP_201_CREATED)
