"""Attachments over the API: add one to a run, read it, take it away."""

from __future__ import annotations

from typing import cast

from django.conf import settings
from django.http import HttpResponse
from django.utils.http import content_disposition_header
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.generics import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from config.errors import TooLarge
from runs import store
from runs.attachments import CantAttachError, attach
from runs.models import Attachment, Run
from runs.serializers import AttachmentSerializer, AttachSerializer


class AttachmentViewSet(mixins.RetrieveModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Attachment]):
    """Photographs and PDFs of runs; whoever added one may delete it, and an administrator."""

    queryset = Attachment.objects.select_related("added_by")
    serializer_class = AttachmentSerializer
    parser_classes = [MultiPartParser]

    @extend_schema(request={"multipart/form-data": AttachSerializer}, responses={201: AttachmentSerializer})
    @action(detail=False, methods=["post"], url_path="to-run/(?P<run>[0-9]+)")
    def to_run(self, request: Request, run: str) -> Response:
        """Attach a file to a run."""
        given = AttachSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        upload = given.validated_data["file"]
        if upload.size > settings.MAX_ATTACHMENT_BYTES:
            raise TooLarge(f"A file may have {settings.MAX_ATTACHMENT_BYTES // 1024**2} MB at most.")
        try:
            made = attach(get_object_or_404(Run, pk=run), upload.name, upload.read(), cast(User, request.user))
        except CantAttachError as error:
            raise serializers.ValidationError({"file": [str(error)]}) from None
        return Response(AttachmentSerializer(made).data, status=201)

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
