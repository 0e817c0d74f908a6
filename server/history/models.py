"""Actions of people, what each changed, and the rows that a deletion took out."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class ChangeKind(models.TextChoices):
    """What became of a row."""

    ADDED = "added"
    CHANGED = "changed"
    DELETED = "deleted"


class Action(models.Model):
    """Something that a person did to stored data at once, and can take back at once."""

    title = models.CharField(max_length=200)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="actions")
    done_at = models.DateTimeField(default=timezone.now, db_index=True)
    undoes = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="undone_by")

    class Meta:
        ordering = ["-done_at", "-id"]

    def __str__(self) -> str:
        return self.title


class Change(models.Model):
    """What an action did to one row, which may be gone by now; `owner` is the row that it was a part of.

    `values` has what each field was and became, as JSON has it; `names` has what rows that a field refers to were
    called. A row that was deleted is in the trash, if it is anywhere.
    """

    action = models.ForeignKey(Action, on_delete=models.CASCADE, related_name="changes")
    kind = models.CharField(max_length=8, choices=ChangeKind.choices)
    model = models.CharField(max_length=60)
    row = models.PositiveBigIntegerField()
    owner_model = models.CharField(max_length=60, blank=True)
    owner_row = models.PositiveBigIntegerField(null=True)
    label = models.CharField(max_length=200)
    revision = models.PositiveIntegerField(null=True, help_text="of the row, once it was changed")
    values = models.JSONField(default=dict)
    names = models.JSONField(default=dict)

    class Meta:
        ordering = ["id"]
        indexes = [
            models.Index(fields=["model", "row"], name="change_of_row"),
            models.Index(fields=["owner_model", "owner_row"], name="change_of_owner"),
        ]


def changes_of(row: models.Model) -> models.QuerySet[Change]:
    """The changes of a row itself, the oldest first."""
    return Change.objects.filter(model=row._meta.label_lower, row=row.pk)


class TrashedRow(models.Model):
    """A row as it was when an action deleted it, kept for as long as that can be undone."""

    action = models.ForeignKey(Action, on_delete=models.CASCADE, related_name="trashed_rows")
    model = models.CharField(max_length=60)
    data = models.TextField()

    class Meta:
        ordering = ["id"]
