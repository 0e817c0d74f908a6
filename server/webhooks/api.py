"""Webhooks over the API, for administrators alone: to give an address is to allow it."""

from __future__ import annotations

import secrets
from typing import Any, cast

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from accounts.models import SecurityEventKind, User
from accounts.permissions import AdministratorsOnly
from accounts.security import note
from webhooks.models import Delivery, Webhook
from webhooks.sending import send_again
from webhooks.serializers import DeliverySerializer, NewWebhookSerializer, WebhookSerializer


class WebhookViewSet(
    mixins.CreateModelMixin, mixins.ListModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[Webhook]
):
    """Addresses that are notified of what happens."""

    permission_classes = [AdministratorsOnly]
    serializer_class = WebhookSerializer
    queryset = Webhook.objects.select_related("created_by")

    @extend_schema(request=WebhookSerializer, responses={201: NewWebhookSerializer})
    def create(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Add an address; the secret that signs what it is sent is in this answer and never again."""
        given = self.get_serializer(data=request.data)
        given.is_valid(raise_exception=True)
        made = given.save(created_by=cast(User, request.user), secret=secrets.token_urlsafe(32))
        note(request._request, SecurityEventKind.WEBHOOK, f"added {made.address}")
        return Response(NewWebhookSerializer(made).data, status=201)

    def perform_destroy(self, instance: Webhook) -> None:
        """Remove it; what waits for it is not sent."""
        note(self.request._request, SecurityEventKind.WEBHOOK, f"removed {instance.address}")
        instance.delete()


class DeliveryViewSet(viewsets.GenericViewSet[Delivery]):
    """What was sent."""

    permission_classes = [AdministratorsOnly]
    serializer_class = DeliverySerializer
    queryset = Delivery.objects.all()

    @extend_schema(request=None, responses=DeliverySerializer)
    @action(detail=True, methods=["post"])
    def again(self, request: Request, pk: str) -> Response:
        """Send it once more, now and after the usual pauses."""
        delivery = get_object_or_404(Delivery, pk=pk)
        send_again(delivery)
        delivery.refresh_from_db()
        return Response(DeliverySerializer(delivery).data)
