"""Webhooks in the admin, to look at; the secret is not shown."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from webhooks.models import Delivery, Webhook


@admin.register(Webhook)
class WebhookAdmin(ReadOnlyAdmin):
    """Without its secret."""

    exclude = ("secret",)


admin.site.register(Delivery, ReadOnlyAdmin)
