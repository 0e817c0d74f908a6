"""Reports, their published versions, and the links that show them to whoever has no log-in."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from history.recorded import recorded


class Units(models.TextChoices):
    """The family of units that a report is written in."""

    US = "us"
    METRIC = "metric"


class Paper(models.TextChoices):
    """What a report is printed on."""

    LETTER = "letter"
    A4 = "a4"


@recorded(fields=("title", "question", "parts", "units", "paper", "license"))
class Report(models.Model):
    """A report as it is being written: parts in the order of reading. What was published of it stands in versions."""

    title = models.CharField(max_length=160)
    question = models.CharField(max_length=500, blank=True, help_text="what the reader wants to know")
    parts = models.JSONField(default=list, help_text="kind, and the number of what is shown or the text")
    units = models.CharField(max_length=6, choices=Units.choices, default=Units.US)
    paper = models.CharField(max_length=6, choices=Paper.choices, default=Paper.LETTER)
    license = models.CharField(max_length=16, blank=True, help_text="of the data package")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="reports")
    created_at = models.DateTimeField(auto_now_add=True)
    revision = models.PositiveIntegerField(default=1)

    MADE_BY = "created_by"

    class Meta:
        ordering = ["-created_at", "-id"]

    def __str__(self) -> str:
        return self.title


@recorded(owner="report")
class Version(models.Model):
    """A report as it was published. Its files are kept as they were made: nothing that happens later changes them."""

    report = models.ForeignKey(Report, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    published_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    published_at = models.DateTimeField(default=timezone.now)
    core_version = models.CharField(max_length=20)
    content = models.JSONField(help_text="what it says, for finding out what a later version changes")
    changes = models.JSONField(default=list, help_text="what is different from the version before, in sentences")
    html_sha256 = models.CharField(max_length=64)
    pdf_sha256 = models.CharField(max_length=64)
    package_sha256 = models.CharField(max_length=64, blank=True, help_text="empty where it rests on no comparison")

    STORED = {"html_sha256": "page", "pdf_sha256": "PDF", "package_sha256": "data package"}  # in the store, by hash

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["report", "number"], name="report_version_once")]

    def __str__(self) -> str:
        return f"{self.report}, version {self.number}"


class Share(models.Model):
    """A link that shows a report's published versions to whoever has it. Only a hash of its secret is kept."""

    report = models.ForeignKey(Report, on_delete=models.CASCADE, related_name="shares")
    digest = models.CharField(max_length=64, unique=True, help_text="SHA-256 of the secret")
    ending = models.CharField(max_length=4, help_text="the secret's last characters, to recognize it by")
    password = models.CharField(max_length=128, blank=True, help_text="hashed; empty where none is asked")
    expires_at = models.DateTimeField()
    revoked_at = models.DateTimeField(null=True)
    views = models.PositiveIntegerField(default=0)
    viewed_at = models.DateTimeField(null=True, help_text="the last time")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    MADE_BY = "created_by"

    class Meta:
        ordering = ["-created_at", "-id"]

    def __str__(self) -> str:
        return f"link …{self.ending} of {self.report}"


class Sharing(models.Model):
    """The installation's one switch: whether links show anything at all."""

    allowed = models.BooleanField(default=True)

    class Meta:
        verbose_name_plural = "sharing"

    def __str__(self) -> str:
        return "allowed" if self.allowed else "switched off"

    @classmethod
    def the(cls) -> Sharing:
        """The one row."""
        return cls.objects.get_or_create(pk=1)[0]
