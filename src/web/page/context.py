"""The context of every page."""

from django.conf import settings
from django.http import HttpRequest


def everywhere(request: HttpRequest) -> dict[str, object]:
    """Return whether this is the demo, and whether writing is allowed."""
    user = request.user if hasattr(request, "user") else None
    return {
        "demo_mode": settings.DEMO_MODE,
        "may_write": bool(user and user.is_authenticated and user.may_write),
    }
