"""Reports as the API takes and shows them."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.utils import timezone
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from config.revisions import RevisedSerializer
from coombe_core.packages.tables import LICENSES
from reports.cards import cards_of
from reports.models import Report, Share, Sharing, Version
from reports.parts import KINDS

MOST_PARTS, MOST_TEXT = 40, 8000
LONGEST = timedelta(days=366)
NUMBERED = ("comparison", "study", "slip")


class PartSerializer(serializers.Serializer[Any]):
    """A part: a text, or the number of a comparison, a study or a run."""

    kind = serializers.ChoiceField(choices=KINDS)
    id = serializers.IntegerField(min_value=1, allow_null=True, default=None)
    text = serializers.CharField(max_length=MOST_TEXT, allow_blank=True, default="")

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        """What is shown has a number, a text words."""
        if attrs["kind"] in NUMBERED and attrs["id"] is None:
            raise serializers.ValidationError({"id": [f"Say which {attrs['kind']}."]})
        if attrs["kind"] == "text" and not attrs["text"].strip():
            raise serializers.ValidationError({"text": ["Write something, or take the text out."]})
        return attrs


class VersionSerializer(serializers.ModelSerializer[Version]):
    """A published version: when, by whom, and what it changed."""

    published_by = serializers.CharField(source="published_by.username", read_only=True)
    has_package = serializers.SerializerMethodField()
    cards = serializers.SerializerMethodField()
    changes = serializers.ListField(child=serializers.CharField(), read_only=True)

    class Meta:
        model = Version
        fields = ("id", "number", "published_by", "published_at", "core_version", "changes", "has_package", "cards")
        read_only_fields = fields

    def get_has_package(self, version: Version) -> bool:
        """Whether there is a data package."""
        return bool(version.package_sha256)

    @extend_schema_field(serializers.ListField(child=serializers.CharField()))
    def get_cards(self, version: Version) -> list[str]:
        """The titles of its picture cards."""
        return [card["title"] for card in cards_of(version)]


class ShareSerializer(serializers.ModelSerializer[Share]):
    """A link without its secret, of which `ending` are the last letters."""

    has_password = serializers.SerializerMethodField()
    created_by = serializers.CharField(source="created_by.username", read_only=True)

    class Meta:
        model = Share
        fields = (
            *("id", "report", "ending", "has_password", "expires_at", "revoked_at", "views", "viewed_at"),
            *("created_by", "created_at"),
        )
        read_only_fields = fields

    def get_has_password(self, share: Share) -> bool:
        """Whether it asks for one."""
        return bool(share.password)


class NewShareSerializer(serializers.Serializer[Any]):
    """What a link is asked for with; its answer alone has the address."""

    report = serializers.PrimaryKeyRelatedField(queryset=Report.objects.all())
    expires_at = serializers.DateTimeField()
    password = serializers.CharField(max_length=100, min_length=6, allow_blank=True, default="", write_only=True)
    path = serializers.CharField(read_only=True)

    def validate_expires_at(self, value: Any) -> Any:
        """In the future, within a year."""
        if not timezone.now() < value <= timezone.now() + LONGEST:
            raise serializers.ValidationError("A link ends some time within a year from now.")
        return value


class ReportRowSerializer(serializers.ModelSerializer[Report]):
    """A report in the list."""

    created_by = serializers.CharField(source="created_by.username", read_only=True)
    published_at = serializers.DateTimeField(read_only=True, allow_null=True)
    links = serializers.IntegerField(read_only=True)

    class Meta:
        model = Report
        fields = ("id", "title", "question", "created_by", "created_at", "published_at", "links")


class ReportSerializer(RevisedSerializer[Report]):
    """A report with its versions and links."""

    parts = PartSerializer(many=True, required=False)
    license = serializers.ChoiceField(choices=list(LICENSES.items()), required=False, allow_blank=True)
    created_by = serializers.CharField(source="created_by.username", read_only=True)
    versions = VersionSerializer(many=True, read_only=True)
    shares = ShareSerializer(many=True, read_only=True)

    class Meta:
        model = Report
        fields = (
            *("id", "title", "question", "parts", "units", "paper", "license", "created_by", "created_at", "revision"),
            *("versions", "shares"),
        )

    def validate_parts(self, parts: list[dict[str, Any]]) -> list[dict[str, Any]]:
        """Not too many."""
        if len(parts) > MOST_PARTS:
            raise serializers.ValidationError(f"A report has at most {MOST_PARTS} parts.")
        return [dict(part) for part in parts]


class SharingSerializer(serializers.ModelSerializer[Sharing]):
    """Whether links show anything."""

    class Meta:
        model = Sharing
        fields = ("allowed",)
