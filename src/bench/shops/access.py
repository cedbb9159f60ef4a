"""Who may write. Reading is everybody's in the shop; the scope already hides other shops."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

from bench.shops.models import Person

BACKEND = "django.contrib.auth.backends.ModelBackend"
"""By what somebody is known who comes in without typing a password: by a link, or the demo's button."""
View = Callable[..., HttpResponse]


def person_of(request: HttpRequest) -> Person:
    """The signed-in person; a page that asks is never reached by anybody else (LoginRequiredMiddleware)."""
    assert isinstance(request.user, Person)
    return request.user


def member_writes(view: View) -> View:
    """Refuse (403) whatever is not a plain read to somebody who may only read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if request.method not in ("GET", "HEAD") and not person_of(request).may_write:
            raise PermissionDenied("You may read this build; entering needs a member of the shop.")
        return view(request, *args, **kwargs)

    return guarded


def members_only(view: View) -> View:
    """Refuse (403) the whole page to somebody who may only read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not person_of(request).may_write:
            raise PermissionDenied("Starting a build needs a member of the shop.")
        return view(request, *args, **kwargs)

    return guarded
