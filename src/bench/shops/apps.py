"""What has to be listened to from the start: signals of signing in."""

from django.apps import AppConfig


class ShopsConfig(AppConfig):
    """People and their shops."""

    name = "bench.shops"

    def ready(self) -> None:
        """Listen."""
        from bench.shops import devices, session_age  # noqa: F401, PLC0415, models are there only now
