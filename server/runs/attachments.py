"""Photographs and PDFs that go with a run."""

from __future__ import annotations

import hashlib

from django.conf import settings

from accounts.models import User
from config.errors import UnfitError
from runs import store
from runs.models import Attachment, Run
from runs.names import plain_name
from runs.stripping import CantStripError, stripped_apart


class CantAttachError(UnfitError):
    """A file that can't be attached; its text is a sentence."""

    field = "file"


def attach(run: Run, name: str, data: bytes, person: User) -> Attachment:
    """Keep a file with a run, stripped. Raises CantAttachError where it is no photograph or PDF that can be read."""
    plain = plain_name(name)
    if len(data) > settings.MAX_ATTACHMENT_BYTES:
        raise CantAttachError(f"{plain} is larger than {settings.MAX_ATTACHMENT_BYTES // 1024**2} MB.")
    try:
        kept, media_type = stripped_apart(data)
    except CantStripError as error:
        raise CantAttachError(f"{plain} {error}") from None
    sha256 = hashlib.sha256(kept).hexdigest()
    store.keep(kept, sha256)
    return Attachment.objects.create(
        run=run, name=plain, sha256=sha256, size_bytes=len(kept), media_type=media_type, added_by=person
    )
