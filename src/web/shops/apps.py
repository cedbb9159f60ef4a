"""The app's configuration: it connects the signals of signing in at the start."""

from django.apps import AppConfig


class ShopsConfig(AppConfig):
    """People and their shops."""

    name = "web.shops"

    def ready(self) -> None:
        """Connect the signals."""
        from web.shops import devices, session_age  # noqa: F401, PLC0415, models are available only now
