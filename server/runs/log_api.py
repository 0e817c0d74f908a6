"""Logs and their imports over the API."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any, cast

from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, status, viewsets
from rest_framework.decorators import action
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.reverse import reverse

from accounts.models import User
from config.errors import InUse
from config.pagination import NarrowPages
from config.parsing import BoundedJSONParser
from history.viewsets import KeepsHistory
from runs import exports, importing, services, store
from runs.can_logs import CanUpload
from runs.dating import Dating, date_log
from runs.filters import LogFilter
from runs.look_api import refuse_larger, refuse_oversize
from runs.models import Import, Log
from runs.rows import log_rows
from runs.serializers import (
    DateLogSerializer,
    ImportedSerializer,
    ImportSerializer,
    LogDeletionSerializer,
    LogSerializer,
)


class LogViewSet(
    KeepsHistory[Log],
    mixins.CreateModelMixin,
    mixins.ListModelMixin,
    mixins.RetrieveModelMixin,
    mixins.DestroyModelMixin,
):
    """Logs: upload one, list them, delete one with its runs (administrators)."""

    queryset = Log.objects.select_related("imported_by", "can_log").prefetch_related("rejections", "untimed")
    pagination_class = NarrowPages
    serializer_class = LogSerializer
    filterset_class = LogFilter
    parser_classes = [MultiPartParser, BoundedJSONParser]

    def rows_of(self, keys: Collection[int]) -> Mapping[int, Any]:
        """The logs of a page of the list."""
        return log_rows(keys)

    @extend_schema(
        request={"multipart/form-data": ImportSerializer},
        responses={200: ImportedSerializer, 202: ImportedSerializer},
    )
    def create(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Import a log: 202 with an import to follow, or 200 where the same bytes are known already."""
        refuse_oversize(request)
        given = ImportSerializer(data=request.data, context=self.get_serializer_context())
        given.is_valid(raise_exception=True)
        values = dict(given.validated_data)
        upload, setup = values.pop("file"), values.pop("setup")
        can_log = _can_upload(values)
        refuse_larger(upload.size)
        made = importing.begin(upload.name, upload.read(), setup, cast(User, request.user), values, can_log)
        code = status.HTTP_200_OK if made.already else status.HTTP_202_ACCEPTED
        headers = {"Location": request.build_absolute_uri(reverse("import-detail", args=[made.pk]))}
        return Response(ImportedSerializer(made).data, status=code, headers=headers)

    @extend_schema(request=DateLogSerializer, responses=LogSerializer)
    def partial_update(self, request: Request, pk: str) -> Response:
        """Say when a log was driven, or correct it: its runs move along."""
        given = DateLogSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        date_log(self.get_object(), Dating(**given.validated_data), cast(User, request.user))
        return Response(LogSerializer(self.get_object()).data)

    @extend_schema(responses={(200, "application/octet-stream"): bytes})
    @action(detail=True)
    def original(self, request: Request, pk: str | None = None) -> HttpResponse:
        """The bytes that were imported or recorded, unchanged."""
        log = self.get_object()
        if log.sha256 is None:
            raise InUse("This log is still being recorded or stored. Stop the recording first.")
        return exports.as_file(store.read(log.sha256), log.name, "original")

    @extend_schema(responses=LogDeletionSerializer)
    @action(detail=True)
    def deletion(self, request: Request, pk: str | None = None) -> Response:
        """What deleting it would take with it."""
        return Response(LogDeletionSerializer({"sentence": services.what_hangs_on(self.get_object())}).data)

    def perform_destroy(self, instance: Log) -> None:
        """Not while it is recorded: its bytes are still on their way to the store."""
        if instance.sha256 is None:
            raise InUse("This log is still being recorded or stored. Stop the recording first.")
        super().perform_destroy(instance)


class ImportViewSet(
    mixins.ListModelMixin, mixins.RetrieveModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Import]
):
    """Imports: follow one, cancel one that is not done."""

    queryset = Import.objects.select_related("log__imported_by", "log__can_log").prefetch_related(
        "log__rejections", "log__untimed"
    )
    serializer_class = ImportedSerializer
    filterset_fields = ["state"]

    def paginate_queryset(self, queryset: Any) -> list[Any] | None:
        """The imports of a page, with what was driven in their logs."""
        page = super().paginate_queryset(queryset)
        Log.know_driven([each.log for each in page or [] if each.log])
        return page

    def perform_destroy(self, instance: Import) -> None:
        """Cancel it; what is done stays."""
        importing.cancel(instance)


def _can_upload(values: dict[str, Any]) -> CanUpload | None:
    """The CAN log of an import, taken out of its values."""
    can_log, dbc = values.pop("can_log", None), values.pop("dbc", None)
    if can_log is None:
        return None
    refuse_larger(can_log.size)
    return CanUpload(can_log.name, can_log.read(), dbc.read().decode("utf-8", errors="replace") if dbc else None)
