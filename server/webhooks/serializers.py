"""Webhooks as JSON."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from webhooks.models import Delivery, Event, Webhook

LOOPBACK = ("127.0.0.1", "localhost", "::1")


class DeliverySerializer(serializers.ModelSerializer[Delivery]):
    """What an address was sent, and what it answered."""

    class Meta:
        model = Delivery
        fields = ("id", "event", "about", "made_at", "tries", "taken_at", "given_up", "answer")
        read_only_fields = fields


class WebhookSerializer(serializers.ModelSerializer[Webhook]):
    """An address with its last deliveries, without its secret."""

    events = serializers.ListField(child=serializers.ChoiceField(choices=Event.choices), min_length=1)
    created_by = serializers.CharField(source="created_by.username", read_only=True)
    deliveries = serializers.SerializerMethodField()

    class Meta:
        model = Webhook
        fields = ("id", "address", "events", "created_by", "created_at", "deliveries")
        read_only_fields = ("created_at",)

    def validate_address(self, address: str) -> str:
        """HTTPS, or HTTP on this machine; no name or password in it."""
        parts = urlsplit(address)
        if not parts.hostname or parts.username or parts.password or parts.fragment:
            raise serializers.ValidationError("An address is such as https://host/path, without a password.")
        if parts.scheme != "https" and not (parts.scheme == "http" and parts.hostname in LOOPBACK):
            raise serializers.ValidationError("Only https, or http to this machine: others could read along.")
        return address

    def validate_events(self, events: list[str]) -> list[str]:
        """Each once."""
        return [event for event in Event.values if event in events]

    @extend_schema_field(DeliverySerializer(many=True))
    def get_deliveries(self, webhook: Webhook) -> list[dict[str, Any]]:
        """The last twenty."""
        return list(DeliverySerializer(webhook.deliveries.all()[:20], many=True).data)


class NewWebhookSerializer(WebhookSerializer):
    """An address as it is made: the only answer that has its secret."""

    secret = serializers.CharField(read_only=True)

    class Meta:
        model = Webhook
        fields = (*WebhookSerializer.Meta.fields, "secret")
        read_only_fields = WebhookSerializer.Meta.read_only_fields
