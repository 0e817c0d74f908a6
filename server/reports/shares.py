"""Links that show a report to whoever has them: unguessable, for a time, with a password where one is asked."""

from __future__ import annotations

import secrets
from datetime import datetime

from django.contrib.auth.hashers import check_password, make_password
from django.db.models import F
from django.http import HttpRequest
from django.utils import timezone

from accounts.models import SecurityEventKind, User
from accounts.security import note
from accounts.throttling import hold_s
from accounts.tokens import digest_of
from reports.models import Report, Share, Sharing

SECRET_BYTES = 32


class ShareError(Exception):
    """Why a link shows nothing; its text is a sentence for whoever opened it."""


def make_share(
    request: HttpRequest, report: Report, person: User, expires_at: datetime, password: str = ""
) -> tuple[Share, str]:
    """A link with its secret, which is known here and never again."""
    secret = secrets.token_urlsafe(SECRET_BYTES)
    share = Share.objects.create(
        report=report,
        digest=digest_of(secret),
        ending=secret[-4:],
        password=make_password(password) if password else "",
        expires_at=expires_at,
        created_by=person,
    )
    note(request, SecurityEventKind.TOKEN, f"made {share}")
    return share, secret


def revoke(request: HttpRequest, share: Share) -> None:
    """End a link at once; its row stays, so that its holder learns why."""
    share.revoked_at = share.revoked_at or timezone.now()
    share.save(update_fields=["revoked_at"])
    note(request, SecurityEventKind.TOKEN, f"revoked {share}")


def opened(secret: str) -> Share:
    """The link of a secret. Raises ShareError where it shows nothing."""
    share = Share.objects.select_related("report").filter(digest=digest_of(secret)).first()
    if share is None or not Sharing.the().allowed:
        raise ShareError("There is nothing at this link. Ask whoever sent it for a new one.")
    if share.revoked_at:
        raise ShareError("This link was revoked. Ask whoever sent it for a new one.")
    if share.expires_at <= timezone.now():
        raise ShareError(f"This link expired on {share.expires_at:%Y-%m-%d}. Ask whoever sent it for a new one.")
    return share


def let_in(request: HttpRequest, share: Share) -> bool:
    """Whether this browser may see it: no password is asked, or it was given here before."""
    return not share.password or request.session.get(_key(share)) == share.password


def try_password(request: HttpRequest, share: Share, password: str) -> str:
    """Let the browser in where the password is right; else why not, in a sentence. Guessing is held back."""
    name = _key(share)  # short: what is counted is cut to the length of a person's name
    if wait_s := hold_s(request, name):
        return f"Too many wrong passwords. Try again in {wait_s} s."
    if not check_password(password, share.password):
        note(request, SecurityEventKind.FAILED, "password of a shared report", name)
        return "That is not the password."
    request.session[_key(share)] = share.password  # a new password asks again
    return ""


def _key(share: Share) -> str:
    return f"share {share.pk}"


def count_view(request: HttpRequest, share: Share, what: str) -> None:
    """Count and log that somebody looked."""
    Share.objects.filter(pk=share.pk).update(views=F("views") + 1, viewed_at=timezone.now())
    note(request, SecurityEventKind.SHARED, f"{share}: {what}")
