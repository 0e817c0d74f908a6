"""The home page over the API."""

from __future__ import annotations

from typing import Any, cast

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from accounts.models import User
from comparisons.serializers import ComparisonRowSerializer
from home.services import Home, NextDay, OpenTest, Trouble, home
from plans.api import ReminderSerializer


class NextDaySerializer(serializers.Serializer[NextDay]):
    """A day that is under way or to come; date and time are the course's."""

    id = serializers.IntegerField()
    question = serializers.CharField()
    car_name = serializers.CharField()
    course_name = serializers.CharField()
    local_date = serializers.CharField()
    local_time = serializers.CharField()
    first_run_at = serializers.DateTimeField()
    state = serializers.CharField()
    done = serializers.IntegerField()
    runs = serializers.IntegerField()


class OpenTestSerializer(serializers.Serializer[OpenTest]):
    """A test that is planned or under way."""

    id = serializers.IntegerField()
    question = serializers.CharField()
    car_name = serializers.CharField()
    measure = serializers.CharField()
    done = serializers.IntegerField()
    open = serializers.IntegerField()
    needs = serializers.CharField()


class TroubleSerializer(serializers.Serializer[Trouble]):
    """What went wrong, and the page where it is seen to."""

    sentence = serializers.CharField()
    path = serializers.CharField(allow_blank=True)


class HomeSerializer(serializers.Serializer[Home]):
    """What a person wants to know on opening Coombe."""

    cars = serializers.IntegerField()
    runs = serializers.IntegerField()
    days = NextDaySerializer(many=True)
    tests = OpenTestSerializer(many=True)
    verdicts = ComparisonRowSerializer(many=True)
    without_conditions = serializers.IntegerField(help_text="pulls without charge or battery temperature")
    trouble = TroubleSerializer(many=True)
    reminders = ReminderSerializer(many=True)


class HomeView(APIView):
    """The home page."""

    @extend_schema(responses=HomeSerializer)
    def get(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Days, tests, verdicts, and what lacks."""
        return Response(HomeSerializer(home(cast(User, request.user))).data)
