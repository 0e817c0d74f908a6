"""Signing in at another provider by OpenID Connect (authorization code with PKCE), where one is named.

The provider says who somebody is; what they may do here is their account's. Nobody comes in who has neither an account
with the address that the provider vouches for, nor an invitation to it.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping
from functools import cache
from typing import Any

import requests
from authlib.integrations.base_client.errors import OAuthError
from authlib.integrations.django_client import OAuth
from django.conf import settings
from django.contrib.auth import login
from django.db import transaction
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.views.decorators.http import require_safe
from joserfc.errors import JoseError

from accounts import links
from accounts.models import Identity, SecurityEventKind, User
from accounts.security import note

REFUSED = "sign_in_refused"  # where in a session stands why it failed, until it was shown
BACK = "/sign-in/back/"
ANSWERS_WITHIN_S = 5.0
BACKEND = "django.contrib.auth.backends.ModelBackend"
logger = logging.getLogger(__name__)


class RefusedError(Exception):
    """Somebody does not come in; its text is a sentence for them."""


def provider_name() -> str:
    """What people call the provider; empty where there is none."""
    return str(settings.SIGN_IN["name"]) if settings.SIGN_IN["issuer"] else ""


@require_safe
def begin(request: HttpRequest) -> HttpResponse:
    """Send the browser to the provider."""
    if not provider_name():
        return HttpResponseRedirect("/")
    try:
        sent: HttpResponse = _client(**settings.SIGN_IN).authorize_redirect(request, request.build_absolute_uri(BACK))
        return sent
    except (requests.RequestException, RuntimeError, ValueError) as error:
        return _refused(request, _away(error))


@require_safe
def back(request: HttpRequest) -> HttpResponse:
    """The browser comes back: let the person in, or say on the log-in page why not."""
    if not provider_name():
        return HttpResponseRedirect("/")
    try:
        person = _person(request, _claims(request))
    except RefusedError as refused:
        return _refused(request, str(refused))
    login(request, person, BACKEND)
    return HttpResponseRedirect("/")


def _claims(request: HttpRequest) -> Mapping[str, Any]:
    """What the provider says of the person; signature, addressee, age and nonce are right. Raises RefusedError."""
    client, issuer = _client(**settings.SIGN_IN), settings.SIGN_IN["issuer"]
    options = {
        "iss": {"essential": True, "values": [issuer]},
        "aud": {"essential": True, "values": [settings.SIGN_IN["client_id"]]},
    }
    try:
        claims = client.authorize_access_token(request, claims_options=options).get("userinfo")
    except requests.RequestException as error:
        raise RefusedError(_away(error)) from None
    except OAuthError as error:
        if error.error == "access_denied":
            raise RefusedError("You did not agree to sign in. Log in here, or try again.") from None
        raise RefusedError(_untrusted(error)) from None
    except (JoseError, ValueError, TypeError, KeyError, RuntimeError) as error:
        raise RefusedError(_untrusted(error)) from None
    if not claims:
        raise RefusedError(_untrusted(ValueError("it sent no ID token")))
    return dict(claims)


@transaction.atomic
def _person(request: HttpRequest, claims: Mapping[str, Any]) -> User:
    """Whose account it is: of who came before, else by the address, else by an invitation. Raises RefusedError."""
    issuer, subject = settings.SIGN_IN["issuer"], str(claims["sub"])
    known = Identity.objects.select_related("person").filter(issuer=issuer, subject=subject).first()
    person = known.person if known else _of_address(request, claims)
    if not person.is_active:
        raise RefusedError("Your account here is closed. Ask an administrator.")
    if not known:
        Identity.objects.create(person=person, issuer=issuer, subject=subject)
        note(request, SecurityEventKind.PERSON, f"signs in at {provider_name()} from now on", person.username)
    return person


def _of_address(request: HttpRequest, claims: Mapping[str, Any]) -> User:
    address = str(claims.get("email", ""))
    if not address or claims.get("email_verified") is not True:
        raise RefusedError(
            f"{provider_name()} does not vouch for your e-mail address. Confirm it there, then try again."
        )
    people = list(User.objects.filter(email__iexact=address)[:2])
    if len(people) == 1:
        return people[0]
    invitation = None if people else links.invitation_for(address)
    if invitation is None or not links.spent(invitation):
        raise RefusedError(f"Nobody here is known by {address}. Ask an administrator to invite that address.")
    person = User(username=_free_name(claims, address), email=address, role=invitation.role)
    person.set_unusable_password()
    person.save()
    note(request, SecurityEventKind.PERSON, f"{person.username} added by invitation; role {person.role}")
    return person


def _free_name(claims: Mapping[str, Any], address: str) -> str:
    wanted = str(claims.get("preferred_username") or address.split("@")[0])[:140]
    taken = {
        name.lower() for name in User.objects.filter(username__istartswith=wanted).values_list("username", flat=True)
    }
    names = [wanted, *(f"{wanted}{number}" for number in range(2, len(taken) + 2))]
    return next(name for name in names if name.lower() not in taken)


def _refused(request: HttpRequest, sentence: str) -> HttpResponse:
    note(request, SecurityEventKind.REFUSED, f"at {provider_name()}: {sentence}")
    request.session[REFUSED] = sentence
    return HttpResponseRedirect("/")


def _away(error: Exception) -> str:
    logger.warning("the sign-in provider does not answer as it should: %s", error)
    return f"{provider_name()} does not answer. Log in with your password, or try again later."


def _untrusted(error: Exception) -> str:
    logger.warning("the sign-in provider's answer was refused: %s", error)
    return f"What {provider_name()} said of you can't be trusted ({error}). Show this to an administrator."


@cache
def _client(issuer: str, client_id: str, client_secret: str, name: str) -> Any:
    """Authlib's client of the provider, which keeps what it once read of it."""
    return OAuth().register(
        "provider",
        client_id=client_id,
        client_secret=client_secret,
        server_metadata_url=f"{issuer.rstrip('/')}/.well-known/openid-configuration",
        client_kwargs={
            "scope": "openid email profile",
            "code_challenge_method": "S256",
            "default_timeout": ANSWERS_WITHIN_S,
        },
    )
