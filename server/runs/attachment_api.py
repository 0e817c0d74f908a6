"""Attachments over the API: add one to a run, read it, take it away."""

from __future__ import annotations

from typing import cast

from django.conf import settings
from django.http import HttpResponse
from django.utils.http import content_disposition_header
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from config.errors import TooLarge
from config.parsing import BoundedJSONParser
from history.viewsets import KeepsHistory
from runs import store
from runs.attachments import attach
from runs.models import Attachment
from runs.names import plain_name
from runs.serializers import AttachmentSerializer, AttachSerializer, NameSerializer


class AttachmentViewSet(KeepsHistory[Attachment], mixins.RetrieveModelMixin, mixins.DestroyModelMixin):
    """Photographs and PDFs of runs; whoever added one may delete it, and an administrator."""

    queryset = Attachment.objects.select_related("added_by")
    serializer_class = AttachmentSerializer
    parser_classes = [MultiPartParser, BoundedJSONParser]

    @extend_schema(request={"multipart/form-data": AttachSerializer}, responses={201: AttachmentSerializer})
    def create(self, request: Request) -> Response:
        """Attach a file to a run."""
        given = AttachSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        upload = given.validated_data["file"]
        if upload.size > settings.MAX_ATTACHMENT_BYTES:
            raise TooLarge(f"A file may have {settings.MAX_ATTACHMENT_BYTES // 1024**2} MB at most.")
        made = attach(given.validated_data["run"], upload.name, upload.read(), cast(User, request.user))
        return Response(AttachmentSerializer(made).data, status=201)

    @extend_schema(request=NameSerializer, responses=AttachmentSerializer)
    def partial_update(self, request: Request, pk: str) -> Response:
        """Give it another name."""
        found = self.get_object()
        given = NameSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with self.acting(self.change_title(found), found):
            found.name = plain_name(given.validated_data["name"])
            found.save(update_fields=["name"])
        return Response(AttachmentSerializer(found).data)

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    @action(detail=True)
    def file(self, request: Request, pk: str) -> HttpResponse:
        """The file itself, as it was kept."""
        found = self.get_object()
        answer = HttpResponse(store.read(found.sha256), content_type=found.media_type)
        # A picture is looked at where it is; a PDF is a program of sorts, and left to the reader's own viewer.
        inline = found.media_type.startswith("image/")
        answer["Content-Disposition"] = content_disposition_header(not inline, found.name) or "attachment"
        answer["Content-Security-Policy"] = "default-src 'none'; sandbox"
        return answer
