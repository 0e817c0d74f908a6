"""Receivers over the API."""

from __future__ import annotations

from django.db.models import Count, IntegerField, OuterRef, QuerySet, Subquery
from django.db.models.functions import Coalesce
from rest_framework import serializers, viewsets

from config.revisions import RevisedSerializer
from history.viewsets import KeepsHistory
from runs.models import Receiver, Run


class ReceiverSerializer(RevisedSerializer[Receiver]):
    """A receiver, with the number of runs that name it."""

    run_count = serializers.IntegerField(read_only=True, default=0)

    class Meta:
        model = Receiver
        fields = "__all__"


class ReceiverViewSet(KeepsHistory[Receiver], viewsets.ModelViewSet[Receiver]):
    """What is known of receivers; runs that name one are timed again where its smoothing changes."""

    serializer_class = ReceiverSerializer

    def get_queryset(self) -> QuerySet[Receiver]:
        """Receivers with the number of their runs."""
        named = Run.objects.filter(receiver=OuterRef("name")).order_by().values("receiver").annotate(n=Count("pk"))
        count = Coalesce(Subquery(named.values("n"), output_field=IntegerField()), 0)
        return Receiver.objects.annotate(run_count=count).order_by("name")
