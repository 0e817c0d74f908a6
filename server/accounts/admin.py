"""People and the security log in the admin."""

from __future__ import annotations

from typing import Any

from django.contrib import admin
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.models import Group
from django.http import HttpRequest

from accounts.models import SecurityEvent, SecurityEventKind, User
from accounts.security import note

admin.site.unregister(Group)  # the role says all


class ReadOnlyAdmin(admin.ModelAdmin):  # type: ignore[type-arg]
    """Rows to look at: changes go through the application, which keeps who, when and why."""

    def has_add_permission(self, request: HttpRequest) -> bool:
        """Nobody adds here."""
        return False

    def has_change_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        """Nobody changes here."""
        return False

    def has_delete_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        """Nobody deletes here."""
        return False


@admin.register(User)
class PersonAdmin(UserAdmin):  # type: ignore[type-arg]
    """People with their role; Django's own marks follow it."""

    list_display = ("username", "role", "is_active", "last_login")
    list_filter = ("role", "is_active")
    filter_horizontal = ()
    fieldsets = (
        (None, {"fields": ("username", "password")}),
        ("Person", {"fields": ("first_name", "last_name", "email", "role", "is_active")}),
    )
    add_fieldsets = ((None, {"classes": ("wide",), "fields": ("username", "password1", "password2", "role")}),)

    def save_model(self, request: HttpRequest, obj: User, form: Any, change: bool) -> None:
        """Save, and note what was changed."""
        super().save_model(request, obj, form, change)
        changed = ", ".join(name for name in form.changed_data if "password" not in name)
        detail = f"{obj.username}: {changed or 'password'}; role {obj.role}" if change else f"{obj.username} added"
        note(request, SecurityEventKind.PERSON, detail)

    def delete_model(self, request: HttpRequest, obj: User) -> None:
        """Delete, and note it."""
        note(request, SecurityEventKind.PERSON, f"{obj.username} deleted")
        super().delete_model(request, obj)


@admin.register(SecurityEvent)
class SecurityEventAdmin(ReadOnlyAdmin):
    """The security log."""

    list_display = ("at", "kind", "username", "address", "detail")
    list_filter = ("kind",)
    search_fields = ("username", "address", "detail")
