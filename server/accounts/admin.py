"""People in the admin."""

from django.contrib import admin
from django.contrib.auth.admin import UserAdmin

from accounts.models import User


@admin.register(User)
class PersonAdmin(UserAdmin):  # type: ignore[type-arg]
    """Django's user admin with the role."""

    list_display = ("username", "role", "is_active")
    fieldsets = (*(UserAdmin.fieldsets or ()), ("Role", {"fields": ("role",)}))
    add_fieldsets = (*UserAdmin.add_fieldsets, ("Role", {"fields": ("role",)}))
