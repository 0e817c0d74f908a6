"""The app of people."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Listens to log-ins once all models are there."""

    name = "accounts"

    def ready(self) -> None:
        """Connect the security log."""
        from accounts import security  # noqa: F401 - it registers itself
