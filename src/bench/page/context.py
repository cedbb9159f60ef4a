"""What every page knows."""

from django.conf import settings
from django.http import HttpRequest

from mockup.words import DEFER


def everywhere(request: HttpRequest) -> dict[str, object]:
    """Whether this is the demo, what may be written, and the words that defer to the makers."""
    user = request.user if hasattr(request, "user") else None
    return {
        "demo_mode": settings.DEMO_MODE,
        "may_write": bool(user and user.is_authenticated and user.may_write),
        "defer_words": DEFER,
    }
