"""The context of every page."""

from django.conf import settings
from django.http import HttpRequest

from mockup.words.report_text import DEFER


def everywhere(request: HttpRequest) -> dict[str, object]:
    """Return whether this is the demo, whether writing is allowed, and the caution that defers to the makers."""
    user = request.user if hasattr(request, "user") else None
    return {
        "demo_mode": settings.DEMO_MODE,
        "may_write": bool(user and user.is_authenticated and user.may_write),
        "defer_words": DEFER,
    }
