"""People who log in, and what each may do."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    """Readers look, testers write, administrators also delete and manage people."""

    ADMINISTRATOR = "administrator"
    TESTER = "tester"
    READER = "reader"


class User(AbstractUser):
    """A person with one role."""

    role = models.CharField(max_length=16, choices=Role.choices, default=Role.READER)

    class Meta(AbstractUser.Meta):
        constraints = [models.CheckConstraint(condition=models.Q(role__in=Role.values), name="user_role_known")]

    @property
    def may_write(self) -> bool:
        """Whether the person may add and change things."""
        return self.role in (Role.ADMINISTRATOR, Role.TESTER)

    @property
    def may_delete(self) -> bool:
        """Whether the person may delete things for good."""
        return self.role == Role.ADMINISTRATOR
