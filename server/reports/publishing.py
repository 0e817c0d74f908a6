"""Publishing: a version of a report with its files, kept as they were made."""

from __future__ import annotations

import hashlib

from django.db import IntegrityError, transaction
from django.utils import timezone

from accounts.models import User
from comparisons.packaging import package_of
from coombe_core.wording.quantities import counted
from reports.composing import changes_between, composed
from reports.models import Report, Version
from reports.parts import PartError
from reports.rendering import html_of, pdf_of
from runs import store
from runs.models import Run


def publish(report: Report, person: User) -> Version:
    """Make the next version. Raises PartError with a sentence where it can't be made; nothing is kept then.

    Files are stored before the row that names them: what a broken request leaves behind is trash, never a gap.
    """
    before = report.versions.first()
    made, now = composed(report), timezone.now()
    if waiting := Run.objects.filter(pk__in=made.content["runs"], stale=True).count():
        raise PartError(
            f"{counted(waiting, 'run')} of it will be timed again: what it rests on has changed. Wait for that."
        )
    number = before.number + 1 if before else 1
    changes = changes_between(before.content, made.content) if before else []
    if before and not changes:
        raise PartError(f"Nothing has changed since version {before.number}.")
    html = html_of(report, made, number, now, person.username, changes)
    comparisons = [part.comparison for part in made.parts if part.comparison]
    try:
        package = package_of(report.title, comparisons, person.username, report.license) if comparisons else b""
    except ValueError as error:
        raise PartError(f"The data package can't be made: {error}.") from None
    files = {"html": html.encode(), "pdf": pdf_of(html), "package": package}
    hashes = {f"{name}_sha256": _kept(data) if data else "" for name, data in files.items()}
    about = {"published_by": person, "published_at": now, "core_version": made.content["core_version"]}
    try:
        with transaction.atomic():
            return Version.objects.create(
                report=report, number=number, content=made.content, changes=changes, **about, **hashes
            )
    except IntegrityError:
        raise PartError("Somebody else has just published it. Look at that version first.") from None


def _kept(data: bytes) -> str:
    sha256 = hashlib.sha256(data).hexdigest()
    store.keep(data, sha256)
    return sha256


def preview(report: Report) -> str:
    """The report as it would be published now."""
    return html_of(report, composed(report), 0, timezone.now(), "", [])
