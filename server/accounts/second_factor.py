"""A second factor beside the password: codes of an authenticator app, and recovery codes for when it is lost.

Codes are those of RFC 6238 (six digits every 30 s, SHA-1), with one step of 30 s allowed to a clock that is off. Each
works once.
"""

from __future__ import annotations

import secrets
from dataclasses import dataclass

import segno
from django.db import transaction
from django.http import HttpRequest
from django_otp import match_token
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from accounts.models import SecurityEventKind, User
from accounts.security import note
from config.errors import UnfitError

RECOVERY_CODES = 10
LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"  # none that looks like another
WRONG = "This code is wrong or was used before. Wait for the next one; is the phone's clock right?"


@dataclass(frozen=True)
class Begun:
    """What an authenticator app takes in: an address, as a picture of it, and its secret to type."""

    address: str
    picture: str
    secret: str


def is_on(person: User) -> bool:
    """Whether a person's log-in asks for a code."""
    return bool(TOTPDevice.objects.filter(user=person, confirmed=True).exists())


def recovery_codes_left(person: User) -> int:
    """How many of the recovery codes are unused."""
    return int(StaticToken.objects.filter(device__user=person).count())


def begin(person: User) -> Begun:
    """Make a secret for an authenticator app; it counts once a code has confirmed it. Raises UnfitError."""
    if is_on(person):
        raise UnfitError("The second factor is on. Turn it off before you move to another app.")
    TOTPDevice.objects.filter(user=person).delete()
    device = TOTPDevice.objects.create(user=person, name=person.username, confirmed=False)
    address = device.config_url
    secret = address.split("secret=")[1].split("&")[0]
    return Begun(address, segno.make(address, error="m").svg_data_uri(scale=5, border=4, light="white"), secret)


@transaction.atomic
def confirm(request: HttpRequest, person: User, code: str) -> list[str]:
    """Turn it on, since the app shows the right code; the recovery codes, which are shown once. Raises UnfitError."""
    device = TOTPDevice.objects.select_for_update().filter(user=person, confirmed=False).first()
    if device is None:
        raise UnfitError("Begin again: there is no secret to confirm.")
    if not device.verify_token(_plain(code)):
        raise UnfitError(WRONG, "code")
    device.confirmed = True
    device.save()
    StaticDevice.objects.filter(user=person).delete()
    holder = StaticDevice.objects.create(user=person, name="recovery", confirmed=True)
    codes = ["".join(secrets.choice(LETTERS) for _ in range(10)) for _ in range(RECOVERY_CODES)]
    StaticToken.objects.bulk_create(StaticToken(device=holder, token=code) for code in codes)
    note(request, SecurityEventKind.SECOND_FACTOR, f"on: {person.username}")
    return codes


def fits(person: User, code: str) -> bool:
    """Whether a code is right, of the app or for recovery; it works once."""
    return match_token(person, _plain(code)) is not None


def turn_off(request: HttpRequest, person: User) -> None:
    """Have a person log in by password alone."""
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
    note(request, SecurityEventKind.SECOND_FACTOR, f"off: {person.username}")


def _plain(code: str) -> str:
    return "".join(code.split()).replace("-", "").lower()
