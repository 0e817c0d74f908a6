"""The tracks over a course, over the API."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.generics import GenericAPIView
from rest_framework.request import Request
from rest_framework.response import Response

from courses.models import Course
from runs.sheet_serializers import TrackSerializer
from runs.tracks import tracks


class TracksView(GenericAPIView[Course]):
    """The runs on a course."""

    queryset = Course.objects.all()
    pagination_class = None

    @extend_schema(responses=TrackSerializer(many=True))
    def get(self, request: Request, pk: int) -> Response:
        """Where the latest runs went over this course."""
        return Response(TrackSerializer(tracks(self.get_object()), many=True).data)
