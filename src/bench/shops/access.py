"""Who may write. Reading is everybody's in the shop; the scope already hides other shops."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

View = Callable[..., HttpResponse]


def member_writes(view: View) -> View:
    """Refuse (403) whatever is not a plain read to somebody who may only read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if request.method not in ("GET", "HEAD") and not request.user.may_write:  # type: ignore[union-attr]
            raise PermissionDenied("You may read this build; entering needs a member of the shop.")
        return view(request, *args, **kwargs)

    return guarded


def members_only(view: View) -> View:
    """Refuse (403) the whole page to somebody who may only read."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not request.user.may_write:  # type: ignore[union-attr]
            raise PermissionDenied("Starting a build needs a member of the shop.")
        return view(request, *args, **kwargs)

    return guarded
