"""Personal access tokens: how programs use the API under a person's name."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta
from typing import TYPE_CHECKING

from django.db.models import Q
from django.http import HttpRequest
from django.utils import timezone
from rest_framework.authentication import BaseAuthentication
from rest_framework.exceptions import AuthenticationFailed

from accounts.models import AccessToken, Role, TokenUse, User
from accounts.models import SecurityEventKind as Kind
from accounts.security import note

if TYPE_CHECKING:
    from rest_framework.request import Request

PREFIX = "coombe_"  # so that a token is recognized where it should not be, as in a repository
SEEN_EVERY = timedelta(minutes=1)  # how precisely it is kept when a token was last used
ROLES = (Role.READER, Role.TESTER, Role.ADMINISTRATOR)  # from the least to the most


def least(*roles: str) -> str:
    """The role that may do least."""
    return min(roles, key=lambda role: ROLES.index(Role(role)))


def make_token(
    request: HttpRequest | None, owner: User, name: str, role: str, use: str = TokenUse.API
) -> tuple[AccessToken, str]:
    """Make a token of a person.

    Parameters
    ----------
    request : HttpRequest
        For the security log.
    owner : User
    name : str
        What it is for.
    role : str
        What it may do at most.
    use : str
        What it opens.

    Returns
    -------
    tuple of AccessToken and str
        The row, and the secret, which is kept nowhere.
    """
    secret = PREFIX + secrets.token_urlsafe(32)
    made = AccessToken.objects.create(
        owner=owner, name=name, role=role, use=use, digest=digest_of(secret), ending=secret[-4:]
    )
    note(request, Kind.TOKEN, f"made {name!r}, {role}" if use == TokenUse.API else f"made {name!r}, for a calendar")
    return made, secret


def revoke(request: HttpRequest, token: AccessToken) -> None:
    """End a token at once."""
    note(request, Kind.TOKEN, f"revoked {token.name!r}")
    token.delete()


def digest_of(secret: str) -> str:
    """What is kept of a token. It has 256 random bits, so a plain hash is enough."""
    return hashlib.sha256(secret.encode()).hexdigest()


def token_of(authorization: str) -> AccessToken | None:
    """The token of an `Authorization` header; None where it is no bearer's, is unknown, or its owner may not log in."""
    scheme, _, secret = authorization.partition(" ")
    if scheme.lower() != "bearer" or not secret.startswith(PREFIX):
        return None
    return known(secret.strip(), TokenUse.API)


def known(secret: str, use: TokenUse) -> AccessToken | None:
    """The token with a secret, which is used by this; None where it opens something else or its owner is closed."""
    found = AccessToken.objects.select_related("owner").filter(digest=digest_of(secret), use=use).first()
    if found is None or not found.owner.is_active:
        return None
    _seen(found)
    return found


class TokenAuthentication(BaseAuthentication):
    """Lets a program in by `Authorization: Bearer coombe_…`, with the lesser of its own role and its owner's."""

    def authenticate(self, request: Request) -> tuple[User, AccessToken] | None:
        """The owner in the token's role. Raises AuthenticationFailed for a token that is not known."""
        header = request.META.get("HTTP_AUTHORIZATION", "")
        if not header.lower().startswith("bearer "):
            return None
        token = token_of(header)
        if token is None:
            raise AuthenticationFailed("This access token is not known, or was revoked. Make another one.")
        token.owner.role = least(token.role, token.owner.role)
        request._request.user = token.owner
        return token.owner, token

    def authenticate_header(self, request: Request) -> str:
        """What an answer of 401 asks for."""
        return "Bearer"


def _seen(token: AccessToken) -> None:
    now = timezone.now()
    rows = AccessToken.objects.filter(pk=token.pk).filter(Q(used_at=None) | Q(used_at__lt=now - SEEN_EVERY))
    rows.update(used_at=now)
