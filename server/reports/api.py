"""Reports, their versions and links over the API."""

from __future__ import annotations

from typing import Any, cast

from django.db.models import Count, Max, Q, QuerySet
from django.http import Http404, HttpResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from accounts.models import User
from accounts.permissions import AdministratorsWrite
from config.errors import Failure
from history.viewsets import KeepsHistory
from reports.cards import card_of
from reports.models import Report, Share, Sharing, Version
from reports.publishing import preview, publish
from reports.serializers import (
    NewShareSerializer,
    ReportRowSerializer,
    ReportSerializer,
    ShareSerializer,
    SharingSerializer,
    VersionSerializer,
)
from reports.shares import make_share, revoke
from reports.views import file_of, paper, saved


class ReportViewSet(KeepsHistory[Report], viewsets.ModelViewSet[Report]):
    """Reports as they are written, and publishing them."""

    http_method_names = ["get", "post", "patch", "delete", "head", "options"]

    def get_queryset(self) -> QuerySet[Report]:
        """All, newest first."""
        if self.action == "list":
            working = Q(shares__revoked_at__isnull=True, shares__expires_at__gt=timezone.now())
            rows = Report.objects.select_related("created_by").annotate(
                published_at=Max("versions__published_at"),
                links=Count("shares", filter=working, distinct=True),
            )
            return rows.order_by("-created_at", "-id")  # a sum leaves the usual order out
        return Report.objects.select_related("created_by").prefetch_related(
            "versions__published_by", "shares__created_by"
        )

    def get_serializer_class(self) -> type[serializers.BaseSerializer[Any]]:
        """A row in the list, everything elsewhere."""
        return ReportRowSerializer if self.action == "list" else ReportSerializer

    def perform_create(self, serializer: serializers.BaseSerializer[Report]) -> None:
        """Under the name of whoever begins it."""
        serializer.save(created_by=self.request.user)

    @extend_schema(responses={(200, "text/html"): OpenApiTypes.STR})
    @action(detail=True)
    def preview(self, request: Request, pk: str | None = None) -> HttpResponse:
        """The report as it would be published now."""
        report = self.get_object()
        return paper(lambda _: HttpResponse(preview(report)))(request._request)

    @extend_schema(request=None, responses={201: VersionSerializer})
    @action(detail=True, methods=["post"])
    def publish(self, request: Request, pk: str | None = None) -> Response:
        """Publish it as it stands: a new version, whose files never change."""
        version = publish(self.get_object(), cast(User, request.user))
        return Response(VersionSerializer(version).data, status=201)


class VersionViewSet(viewsets.GenericViewSet[Version]):
    """The files of published versions."""

    queryset = Version.objects.select_related("report")
    serializer_class = VersionSerializer

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    @action(detail=True, url_path="file/(?P<kind>html|pdf|package)", url_name="file")
    def file(self, request: Request, kind: str, pk: str | None = None) -> HttpResponse:
        """The report as one HTML file, as PDF, or its data package."""
        return file_of(self.get_object(), kind)

    @extend_schema(responses={(200, "image/png"): OpenApiTypes.BINARY})
    @action(detail=True, url_path="card/(?P<place>[0-9]{1,2})", url_name="card")
    def card(self, request: Request, place: str, pk: str | None = None) -> HttpResponse:
        """The picture card of one of its parts, 1200 by 630 dots."""
        version = self.get_object()
        try:
            return saved(version, card_of(version, int(place)), "image/png", "png")
        except IndexError:
            raise Http404 from None


class ShareViewSet(mixins.CreateModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Share]):
    """Links that show a report without a log-in."""

    queryset = Share.objects.all()
    serializer_class = ShareSerializer

    @extend_schema(request=NewShareSerializer, responses={201: NewShareSerializer})
    def create(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Make a link; its address is in this answer and never again."""
        given = NewShareSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        if not Sharing.the().allowed:
            raise Failure(409, "Links are switched off here. An administrator can switch them on.", "switched_off")
        if not asked["report"].versions.exists():
            raise Failure(409, "Publish the report first: a link shows published versions.", "not_published")
        person = cast(User, request.user)
        share, secret = make_share(request._request, asked["report"], person, asked["expires_at"], asked["password"])
        shown = {"report": share.report_id, "expires_at": share.expires_at, "path": f"/shared/{secret}/"}
        return Response(shown, status=201)

    def perform_destroy(self, instance: Share) -> None:
        """Revoke it."""
        revoke(self.request._request, instance)


class SharingView(APIView):
    """The switch that shuts every link of the installation."""

    permission_classes = [AdministratorsWrite]

    @extend_schema(responses=SharingSerializer)
    def get(self, request: Request) -> Response:
        """Whether links show anything."""
        return Response(SharingSerializer(Sharing.the()).data)

    @extend_schema(request=SharingSerializer, responses=SharingSerializer)
    def put(self, request: Request) -> Response:
        """Switch them on or off."""
        given = SharingSerializer(Sharing.the(), data=request.data)
        given.is_valid(raise_exception=True)
        given.save()
        return Response(given.data)
