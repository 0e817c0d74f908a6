"""Courses over the API."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from config.errors import TooLarge
from coombe_core.formats import read_log
from coombe_core.formats.reading import ReadError
from coombe_core.physics.course import survey
from courses.models import Course
from courses.serializers import (
    CourseSerializer,
    SurveySerializer,
    checked_profile,
    set_profile,
)
from history.viewsets import KeepsHistory

if TYPE_CHECKING:
    from django.core.files.uploadedfile import UploadedFile


class CourseViewSet(KeepsHistory[Course], viewsets.ModelViewSet[Course]):
    """Strips, each in one direction."""

    queryset = Course.objects.prefetch_related("stations")
    serializer_class = CourseSerializer

    @extend_schema(request={"multipart/form-data": SurveySerializer}, responses=CourseSerializer)
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def survey(self, request: Request, pk: str) -> Response:
        """Take the slope profile from the log of a slow drive along the strip, replacing the one before it."""
        given = SurveySerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file: UploadedFile[Any] = given.validated_data["file"]
        if (file.size or 0) > settings.MAX_SURVEY_BYTES:
            raise TooLarge(f"A survey may have {settings.MAX_SURVEY_BYTES // 1024**2} MB at most; cut the log.")
        course = self.get_object()
        try:
            profile = survey(read_log(file.read()).trace)
        except (ReadError, ValueError) as error:
            raise serializers.ValidationError({"file": [f"{file.name}: {error}"]}) from None
        columns = zip(profile.distance_m.round(1).tolist(), profile.elevation_m.round(2).tolist(), strict=True)
        stations = [{"distance_m": way, "elevation_m": height} for way, height in columns]
        try:
            checked_profile(stations)
        except ValueError as error:
            raise serializers.ValidationError({"file": [f"{file.name}: {error}"]}) from None
        with self.acting(f"Surveyed course {course}", course):
            course = Course.objects.select_for_update().get(pk=course.pk)
            set_profile(course, stations)
        return Response(self.get_serializer(self.get_object()).data)
