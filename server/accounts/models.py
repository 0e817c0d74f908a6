"""People who log in, what each may do, and the log of what concerns security."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models
from django.db.models import Q
from django.utils import timezone


class Role(models.TextChoices):
    """Readers look, testers write and delete what they made, administrators also manage people and devices."""

    ADMINISTRATOR = "administrator"
    TESTER = "tester"
    READER = "reader"


class User(AbstractUser):
    """A person with one role. Django's own staff and superuser marks follow the role."""

    role = models.CharField(max_length=16, choices=Role.choices, default=Role.READER)

    class Meta(AbstractUser.Meta):
        constraints = [
            models.CheckConstraint(condition=Q(role__in=Role.values), name="user_role_known"),
            models.CheckConstraint(
                condition=Q(role=Role.ADMINISTRATOR, is_staff=True, is_superuser=True)
                | (~Q(role=Role.ADMINISTRATOR) & Q(is_staff=False, is_superuser=False)),
                name="user_marks_follow_role",
            ),
        ]

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Store the person, the marks as the role has them."""
        self.is_staff = self.is_superuser = self.role == Role.ADMINISTRATOR
        if kwargs.get("update_fields") is not None:
            kwargs["update_fields"] = {*kwargs["update_fields"], "is_staff", "is_superuser"}
        super().save(*args, **kwargs)

    @property
    def may_write(self) -> bool:
        """Whether the person may add and change things, and delete what they made."""
        return self.role in (Role.ADMINISTRATOR, Role.TESTER)

    @property
    def may_delete(self) -> bool:
        """Whether the person may delete what others made."""
        return self.role == Role.ADMINISTRATOR


class SecurityEventKind(models.TextChoices):
    """What happened."""

    LOG_IN = "log-in"
    LOG_OUT = "log-out"
    FAILED = "failed log-in"
    HELD_BACK = "held back"
    PASSWORD = "password changed"
    PERSON = "person changed"
    LINK = "link"
    SECOND_FACTOR = "second factor"
    ENDED = "session ended"
    REFUSED = "sign-in refused"
    TOKEN = "token"
    DELETED = "deleted"
    EXPORTED = "exported"
    SHARED = "shared"
    WEBHOOK = "webhook"


class TokenUse(models.TextChoices):
    """What an access token opens: the API, or the calendar of test days alone, whose address has the token in it."""

    API = "api"
    CALENDAR = "calendar"


class AccessToken(models.Model):
    """What a program logs in with, under a person's name. Only a hash of the secret is kept."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=60, help_text="what it is for")
    role = models.CharField(
        max_length=16, choices=Role.choices, default=Role.READER, help_text="what it may do at most"
    )
    use = models.CharField(max_length=8, choices=TokenUse.choices, default=TokenUse.API, help_text="what it opens")
    digest = models.CharField(max_length=64, unique=True, help_text="SHA-256 of the secret")
    ending = models.CharField(max_length=4, help_text="the secret's last characters, to recognize it by")
    created_at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True, help_text="to the minute")

    class Meta:
        ordering = ["-created_at", "-id"]
        constraints = [models.CheckConstraint(condition=Q(role__in=Role.values), name="token_role_known")]

    def __str__(self) -> str:
        return f"{self.name} …{self.ending}"


class SecurityEvent(models.Model):
    """Who did what, when and from where. Names are kept as text, so that they outlast the person."""

    kind = models.CharField(max_length=20, choices=SecurityEventKind.choices)
    at = models.DateTimeField(auto_now_add=True)
    username = models.CharField(max_length=150, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, blank=True)
    address = models.CharField(max_length=45, blank=True)
    device = models.CharField(max_length=40, blank=True, help_text="a browser that this person logged in with before")
    detail = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [
            models.Index(fields=["kind", "username", "at"], name="security_by_name"),
            models.Index(fields=["kind", "address", "at"], name="security_by_address"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}: {self.username}"


class AccountLink(models.Model):
    """A link that works once: it makes an account in a role, or gives a person a new password."""

    digest = models.CharField(max_length=64, unique=True, help_text="SHA-256 of the secret")
    role = models.CharField(max_length=16, choices=Role.choices, default=Role.READER, help_text="of a new account")
    email = models.EmailField(blank=True, help_text="whoever signs in elsewhere with this address may use it too")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL,
        on_delete=models.CASCADE,
        null=True,
        related_name="links",
        help_text="whose password it sets; none where it makes an account",
    )
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    ends_at = models.DateTimeField()

    class Meta:
        ordering = ["-made_at", "-id"]
        constraints = [models.CheckConstraint(condition=Q(role__in=Role.values), name="link_role_known")]


class Identity(models.Model):
    """Who a person is at another provider. Its subject never changes, as an address may."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="identities")
    issuer = models.CharField(max_length=200)
    subject = models.CharField(max_length=255)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["issuer", "subject"], name="identity_once")]


class BrowserSession(AbstractBaseSession):
    """A browser that somebody is logged in with, so that people see where they are and end what they left open."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="sessions")
    begun_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(default=timezone.now, help_text="to a few minutes")
    address = models.CharField(max_length=45, blank=True)
    browser = models.CharField(max_length=200, blank=True, help_text="as it names itself")

    class Meta:
        ordering = ["-seen_at"]
