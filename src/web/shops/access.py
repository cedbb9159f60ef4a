"""Who may write. Everybody in a shop may read it; the scope already hides other shops."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

from web.shops.models import Person

BACKEND = "django.contrib.auth.backends.ModelBackend"
"""The backend of a person who signs in without a password: by a link, or the demo's button."""
View = Callable[..., HttpResponse]


def person_of(request: HttpRequest) -> Person:
    """Return the signed-in person; LoginRequiredMiddleware keeps others out."""
    assert isinstance(request.user, Person)
    return request.user


def member_writes(view: View) -> View:
    """Refuse everything but plain reads (403) to a person who may only read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if request.method not in ("GET", "HEAD") and not person_of(request).may_write:
            raise PermissionDenied("You may read this build. Only members of the shop can enter something.")
        return view(request, *args, **kwargs)

    return guarded


def members_only(view: View) -> View:
    """Refuse the whole page (403) to a person who may only read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not person_of(request).may_write:
            raise PermissionDenied("Only members of the shop can start a build.")
        return view(request, *args, **kwargs)

    return guarded
