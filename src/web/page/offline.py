"""Working without a connection: service worker, its page, the manifest.

The worker caches pages of one build for one person. Every page names its owner in a header; another person's page, or a
sign-in page, makes the worker delete its cache.
"""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from web.shops.models import Person
from web.shops.scope import GetResponse

OWNER = "X-Owner"
"""The header with a page's owner: a person in a shop, by their numbers."""


class OwnerMiddleware:
    """Mark every answer with its owner, and as not to be cached by others."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        response = self.get_response(request)
        if isinstance(request.user, Person):
            response[OWNER] = f"{request.user.pk}-{request.user.shop_id or 0}"
            # A shop's pages are read here and stored nowhere, except by the service worker for its person.
            response.setdefault("Cache-Control", "no-store")
        return response


@login_not_required
@require_GET
@cache_control(no_cache=True)
def worker(request: HttpRequest) -> HttpResponse:
    """Return the service worker; it caches no page before a page has named its owner."""
    return render(request, "offline/worker.js", content_type="text/javascript")


@login_not_required
@require_GET
@cache_control(max_age=86400)
def manifest(request: HttpRequest) -> HttpResponse:  # noqa: ARG001
    """Return the manifest for a phone's home screen (W3C Web Application Manifest)."""
    icons = [
        {"src": static(f"web/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png"} for size in (192, 512)
    ]
    return JsonResponse(
        {
            "name": "Astute Mole",
            "short_name": "Mole",
            "description": "Short-block mock-up: clearance, deck, quench and compression ratio.",
            "start_url": reverse("builds"),
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
    """Return the page for what is not cached; it lists the pages of the build that are."""
    return render(request, "offline/no_connection.html")
