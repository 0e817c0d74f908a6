"""Courses over the API."""

from rest_framework import serializers, viewsets

from courses.models import Course


class CourseSerializer(serializers.ModelSerializer[Course]):
    """A course with every column."""

    class Meta:
        model = Course
        fields = "__all__"


class CourseViewSet(viewsets.ModelViewSet[Course]):
    """Strips, each in one direction."""

    queryset = Course.objects.all()
    serializer_class = CourseSerializer
