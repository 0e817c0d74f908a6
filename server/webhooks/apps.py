"""Registers what listens."""

from django.apps import AppConfig


class WebhooksConfig(AppConfig):
    """The app of webhooks."""

    name = "webhooks"

    def ready(self) -> None:
        """From here on what happens is announced."""
        from webhooks import announcing  # noqa: F401
