"""Merging and splitting setups over the API."""

from __future__ import annotations

from typing import Any, cast

from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.generics import GenericAPIView
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from cars.models import ChangeKind, Setup
from cars.serializers import SetupSerializer
from runs import setups


class MergeSerializer(serializers.Serializer[Any]):
    """Into which setup another one goes."""

    into = serializers.PrimaryKeyRelatedField(queryset=Setup.objects.select_related("car"))


class SplitSerializer(serializers.Serializer[Any]):
    """From which day on the runs of a setup were made on another one."""

    since = serializers.DateField(help_text="the first day, UTC, of the later setup")
    name = serializers.CharField(max_length=80)
    change = serializers.ChoiceField(choices=ChangeKind.choices)
    change_note = serializers.CharField(max_length=300, allow_blank=True, default="")


class SetupView(GenericAPIView[Setup]):
    """One setup, with its car."""

    queryset = Setup.objects.select_related("car")
    pagination_class = None


class MergeSetupView(SetupView):
    """Two setups that are one."""

    serializer_class = MergeSerializer

    @extend_schema(request=MergeSerializer, responses=SetupSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Move the runs, plans and recorders of this setup to another one of its car, and delete this one."""
        given = MergeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        into = setups.merge(self.get_object(), given.validated_data["into"], cast(User, request.user))
        return Response(SetupSerializer(into).data)


class SplitSetupView(SetupView):
    """One setup that is two."""

    serializer_class = SplitSerializer

    @extend_schema(request=SplitSerializer, responses={201: SetupSerializer})
    def post(self, request: Request, pk: int) -> Response:
        """Give the runs from a day on a new setup, which begins as a copy of this one."""
        given = SplitSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        values = dict(given.validated_data)
        made = setups.split(self.get_object(), values.pop("since"), values, cast(User, request.user))
        return Response(SetupSerializer(made).data, status=status.HTTP_201_CREATED)
