"""Attachments over the API: add one to a run, read it, take it away."""

from __future__ import annotations

from typing import cast

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import PermissionDenied
from rest_framework.generics import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import User
from runs import store
from runs.attachments import CantAttachError, attach
from runs.models import Attachment, Run
from runs.serializers import AttachmentSerializer, AttachSerializer


class AttachmentViewSet(mixins.RetrieveModelMixin, viewsets.GenericViewSet[Attachment]):
    """Photographs and PDFs of runs."""

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
        answer["Content-Disposition"] = "inline"
        answer["Content-Security-Policy"] = "default-src 'none'; sandbox"
        return answer

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"])
    def remove(self, request: Request, pk: str) -> Response:
        """Take an attachment away; whoever added it may, and an administrator."""
        found = self.get_object()
        person = cast(User, request.user)
        if found.added_by_id != person.pk and not person.may_delete:
            raise PermissionDenied("Only who attached it, or an administrator, takes it away.")
        found.delete()
        return Response(status=204)
