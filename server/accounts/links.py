"""Links that work once: for a new account, or a new password. Only a hash of their secret is kept."""

from __future__ import annotations

import secrets
from datetime import timedelta

from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone

from accounts.models import AccountLink, SecurityEventKind, User
from accounts.security import note
from accounts.sessions import end_sessions
from accounts.tokens import digest_of
from config.errors import UnfitError

INVITATION_LASTS, PASSWORD_LINK_LASTS = timedelta(days=7), timedelta(days=1)
GONE = "This link was used, taken back, or has run out. Ask an administrator for another one."


def invite(request: HttpRequest, by: User, role: str, email: str = "") -> tuple[AccountLink, str]:
    """Make a link for a new account; the row, and the secret, which is kept nowhere."""
    made = _make(by, INVITATION_LASTS, role=role, email=email)
    note(request, SecurityEventKind.LINK, f"invited {email or 'somebody'} as {role}")
    return made


def renew_password(request: HttpRequest, by: User, person: User) -> tuple[AccountLink, str]:
    """Make a link that gives a person a new password, in the place of any before; the row and the secret."""
    person.links.all().delete()
    made = _make(by, PASSWORD_LINK_LASTS, role=person.role, person=person)
    note(request, SecurityEventKind.LINK, f"for a new password of {person.username}")
    return made


def take_back(request: HttpRequest, link: AccountLink) -> None:
    """Have a link work no more."""
    whom = link.person.username if link.person else link.email or "somebody"
    note(request, SecurityEventKind.LINK, f"taken back, of {whom}")
    link.delete()


def found(secret: str) -> AccountLink:
    """The link with a secret. Raises UnfitError where it does not work."""
    link = AccountLink.objects.select_related("person").filter(digest=digest_of(secret)).first()
    if link is None or link.ends_at <= timezone.now() or (link.person and not link.person.is_active):
        raise UnfitError(GONE)
    return link


@transaction.atomic
def use(request: HttpRequest, secret: str, username: str, password: str) -> User:
    """Make the account, or set the password, and have the link work no more. Raises UnfitError."""
    link = found(secret)
    person = link.person or User(username=_free(username), role=link.role, email=link.email)
    try:
        validate_password(password, person)
    except ValidationError as error:
        raise UnfitError(" ".join(error.messages), "password") from None
    if not spent(link):
        raise UnfitError(GONE)
    person.set_password(password)
    person.save()
    end_sessions(person)
    if link.person:
        note(request, SecurityEventKind.PASSWORD, "by a link", person.username)
    else:
        note(request, SecurityEventKind.PERSON, f"{person.username} added by invitation; role {person.role}")
    return person


def spent(link: AccountLink) -> bool:
    """Use a link up; False where somebody else did at the same moment."""
    count, _ = AccountLink.objects.filter(pk=link.pk).delete()
    return bool(count)


def invitation_for(email: str) -> AccountLink | None:
    """The invitation of an address, which works."""
    rows = AccountLink.objects.filter(person=None, email__iexact=email, ends_at__gt=timezone.now())
    return rows.first() if email else None


def _make(by: User, lasts: timedelta, **values: object) -> tuple[AccountLink, str]:
    secret = secrets.token_urlsafe(32)
    link = AccountLink.objects.create(digest=digest_of(secret), made_by=by, ends_at=timezone.now() + lasts, **values)
    return link, secret


def _free(username: str) -> str:
    """A name for a new account. Raises UnfitError."""
    if not username:
        raise UnfitError("Choose the name that you log in with.", "username")
    try:
        UnicodeUsernameValidator()(username)
    except ValidationError as error:
        raise UnfitError(" ".join(error.messages), "username") from None
    if User.objects.filter(username__iexact=username).exists():
        raise UnfitError("Somebody here has this name. Choose another one.", "username")
    return username
