"""Without a connection: the service worker, the page it shows for what it has not kept, and the home screen's manifest.

The worker keeps pages of one build for one person. Every page says whose it is in a header; a page of somebody else,
or a sign-in page, makes the worker drop what it kept.
"""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from bench.shops.models import Person
from bench.shops.scope import GetResponse

OWNER = "X-Owner"
"""The header that says whose page it is: a person in a shop, by their numbers."""


class OwnerMiddleware:
    """Says of every answer whose it is, and that nobody else keeps it."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        response = self.get_response(request)
        if isinstance(request.user, Person):
            response[OWNER] = f"{request.user.pk}-{request.user.shop_id or 0}"
            # A shop's pages are read here and kept nowhere, but for what the service worker keeps for its person.
            response.setdefault("Cache-Control", "no-store")
        return response


@login_not_required
@require_GET
@cache_control(no_cache=True)
def worker(request: HttpRequest) -> HttpResponse:
    """The service worker; it keeps no page before a page has said whose it is."""
    return render(request, "offline/worker.js", content_type="text/javascript")


@login_not_required
@require_GET
@cache_control(max_age=86400)
def manifest(request: HttpRequest) -> HttpResponse:  # noqa: ARG001
    """What a phone needs to put the application on its home screen (W3C Web Application Manifest)."""
    icons = [
        {"src": static(f"bench/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png"} for size in (192, 512)
    ]
    return JsonResponse(
        {
            "name": "Astute Mole",
            "short_name": "Mole",
            "description": "Short-block mock-up: clearance, deck, quench and compression ratio.",
            "start_url": reverse("stand"),
            "scope": "/",
            "display": "standalone",
            "background_color": "#f3f0e8",
            "theme_color": "#16222c",
            "icons": [{**one, "purpose": "any maskable"} for one in icons],
        },
        content_type="application/manifest+json",
    )


@login_not_required
@require_GET
def no_connection(request: HttpRequest) -> HttpResponse:
    """The page for what was not kept: it names the pages of the build that were."""
    return render(request, "offline/no_connection.html")
