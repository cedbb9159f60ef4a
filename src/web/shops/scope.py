"""The scope of a shop: every query for its rows runs inside it, or is refused.

The middleware opens the scope of the signed-in person's shop for the whole request, so that a build of another shop
does not exist and its address answers 404. Outside a scope, scoped managers raise.
"""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django_scopes import scope

from web.shops import request_cache

GetResponse = Callable[[HttpRequest], HttpResponse]


class ShopScopeMiddleware:
    """Run the rest of the request inside the scope of the person's shop."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request; a visitor, or a person without a shop, gets an empty scope."""
        # None would mean every shop to django-scopes; an empty list means no shop.
        with scope(shop=getattr(request.user, "shop", None) or []), request_cache.opened():
            return self.get_response(request)
