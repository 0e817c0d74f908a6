"""A look at a file over the API."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from config.errors import TooLarge
from coombe_core.formats import ReadError
from runs.importing import by_field
from runs.looking import look

FORM_OVERHEAD_BYTES = 64 * 1024


class LookSerializer(serializers.Serializer[Any]):
    """A file to look at."""

    file = serializers.FileField(allow_empty_file=True, max_length=1000)
    layout = serializers.JSONField(required=False, help_text='headings of a table: {"v": "speed_kmh"}')
    dbc = serializers.FileField(required=False, help_text="what decodes a CAN log, if not Coombe's own")


class LookedSerializer(serializers.Serializer[Any]):
    """What a file is, what is in it, and what is odd about it."""

    kind = serializers.ChoiceField(choices=["receiver log", "CAN log"])
    format = serializers.CharField()
    start_utc = serializers.DateTimeField(allow_null=True)
    duration_s = serializers.FloatField()
    rate_hz = serializers.FloatField(allow_null=True)
    date_known = serializers.BooleanField()
    runs = serializers.DictField(child=serializers.IntegerField(), help_text="how many of each kind")
    course = serializers.IntegerField(allow_null=True)
    heading_deg = serializers.FloatField(allow_null=True)
    already = serializers.IntegerField(allow_null=True)
    odd = serializers.ListField(child=serializers.CharField())


class LookView(APIView):
    """What is in a file, before anything of it is stored."""

    parser_classes = [MultiPartParser]

    @extend_schema(request={"multipart/form-data": LookSerializer}, responses=LookedSerializer)
    def post(self, request: Request) -> Response:
        """Look at one log; refused as its import would be."""
        refuse_oversize(request)
        given = LookSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file, dbc = given.validated_data["file"], given.validated_data.get("dbc")
        refuse_larger(file.size)
        try:
            seen = look(
                file.read(),
                given.validated_data.get("layout"),
                dbc.read().decode("utf-8", errors="replace") if dbc else None,
            )
        except ReadError as error:
            raise by_field(error, file.name, file.name) from None
        return Response(LookedSerializer(seen).data)


def refuse_oversize(request: Request) -> None:
    """Refuse by the stated length, before the body is read. Raises TooLarge."""
    refuse_larger(int(request.META.get("CONTENT_LENGTH") or 0) - FORM_OVERHEAD_BYTES)


def refuse_larger(size_bytes: int) -> None:
    """Refuse what is over the limit of a log. Raises TooLarge."""
    limit = settings.MAX_LOG_BYTES
    if size_bytes > limit:
        raise TooLarge(f"The file is larger than the limit of {limit / 1024**2:.0f} MB; split the log.")
