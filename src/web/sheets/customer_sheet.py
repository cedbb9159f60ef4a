"""The build sheet for a person outside the shop, through a link that expires."""

from collections.abc import Callable
from functools import wraps

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET
from django_scopes import scope

from web.builds.customer_links import link_of
from web.builds.models import SheetLink
from web.page.build_page import BuildPage
from web.sheets.embedded_pictures import seen_with
from web.sheets.pdf import as_pdf
from web.sheets.sheet_content import sheet_parts
from web.shops.clock import zone_of

Shown = Callable[[HttpRequest, SheetLink], HttpResponse]


def _by_link(view: Shown) -> Callable[[HttpRequest, str], HttpResponse]:
    """Show what a link's token leads to, by the clock of the shop; 410 for an expired one."""

    @wraps(view)
    @login_not_required
    @require_GET
    @never_cache
    def guarded(request: HttpRequest, token: str) -> HttpResponse:
        link = link_of(token)
        if link is None:
            return render(request, "sheets/link_ended.html", status=410)
        with scope(shop=link.build.shop), timezone.override(zone_of(link.made_by)):
            answer = view(request, link)
        # Everybody with the address may read it, so search engines must not index or follow it.
        answer["X-Robots-Tag"] = "noindex, nofollow"
        answer["Referrer-Policy"] = "no-referrer"
        return answer

    return guarded


@_by_link
def shown_sheet(request: HttpRequest, link: SheetLink) -> HttpResponse:
    """Show the build sheet as it is now."""
    parts = sheet_parts(BuildPage(link.build), link.made_by)
    return render(request, "sheets/shown.html", {**parts, "link": link})


@_by_link
def shown_pdf(request: HttpRequest, link: SheetLink) -> HttpResponse:
    """Return the build sheet as a PDF."""
    page = BuildPage(link.build)

    def html() -> str:
        return render_to_string("sheets/pdf.html", sheet_parts(page, link.made_by))

    return as_pdf(request, str(link.build), link.made_by, seen_with(page), html)
