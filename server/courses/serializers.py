"""Courses as the API shows and takes them."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from rest_framework import serializers

from config.nested import WholeSerializer
from config.revisions import RevisedSerializer
from coombe_core.physics.course import Profile
from courses.models import Course, Station

STEEPEST_PERCENT = 15.0  # of a whole strip, as its column allows
STEEPEST_STRETCH_PERCENT = 60.0  # between two stations, which a survey may place close together


class StationSerializer(WholeSerializer[Station]):
    """A height along the course."""

    class Meta:
        model = Station
        fields = ("distance_m", "elevation_m")


class CourseSerializer(RevisedSerializer[Course]):
    """A course with its surveyed profile. A profile of two stations or more states the mean slope too."""

    stations = StationSerializer(many=True, required=False)
    available_m = serializers.FloatField(read_only=True)

    class Meta:
        model = Course
        fields = "__all__"

    def validate_stations(self, stations: list[dict[str, float]]) -> list[dict[str, float]]:
        """Ascending ways, two at least, or none."""
        try:
            if stations:
                checked_profile(stations)
        except ValueError as error:
            raise serializers.ValidationError(str(error)) from None
        return stations

    def create(self, validated_data: dict[str, Any]) -> Course:
        """The course and its stations, or nothing."""
        stations = validated_data.pop("stations", [])
        with transaction.atomic():
            return set_profile(super().create(validated_data), stations)

    def update(self, instance: Course, validated_data: dict[str, Any]) -> Course:
        """The course; a profile that is sent replaces the one before it."""
        stations = validated_data.pop("stations", None)
        with transaction.atomic():
            course = super().update(instance, validated_data)
            return course if stations is None else set_profile(course, stations)


def checked_profile(stations: list[dict[str, float]]) -> Profile:
    """The profile of some stations. Raises ValueError with a sentence where no strip runs like that."""
    profile = Profile.of([(each["distance_m"], each["elevation_m"]) for each in stations])
    climbs = np.diff(profile.elevation_m) / np.diff(profile.distance_m) * 100
    steepest = float(climbs[np.argmax(np.abs(climbs))])
    if abs(steepest) > STEEPEST_STRETCH_PERCENT or abs(profile.mean_slope_percent) > STEEPEST_PERCENT:
        raise ValueError(f"a climb of {steepest:+.0f} % can't be right: are these meters, distance first, then height?")
    return profile


def set_profile(course: Course, stations: list[dict[str, float]]) -> Course:
    """Replace a course's profile, and its mean slope where the profile has one."""
    course.stations.all().delete()
    Station.objects.bulk_create(Station(course=course, **each) for each in stations)
    if len(stations) > 1:
        profile = checked_profile(stations)
        course.slope_percent = round(profile.mean_slope_percent, 3)
    course.save(update_fields=["slope_percent"])  # which also has its runs timed again
    return course


class SurveySerializer(serializers.Serializer[Any]):
    """The log of a slow drive along the strip."""

    file = serializers.FileField()

    def validate_file(self, file: UploadedFile[Any]) -> UploadedFile[Any]:
        """Not empty."""
        if not file.size:
            raise serializers.ValidationError(f"{file.name} is empty.")
        return file
