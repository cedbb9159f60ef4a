"""The sheet of one build for somebody outside the shop, by a link that ends."""

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

from bench.builds.links import link_of
from bench.builds.models import SheetLink
from bench.page.bench import Bench
from bench.sheets.content import sheet_parts
from bench.sheets.pdf import as_pdf
from bench.sheets.pictured import seen_with
from bench.shops.clock import zone_of
from mockup.words import DEFER

Shown = Callable[[HttpRequest, SheetLink], HttpResponse]


def _by_link(view: Shown) -> Callable[[HttpRequest, str], HttpResponse]:
    """Show what the link of a token leads to, by the clock of the shop; 410 where it leads nowhere any more."""

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
        # Whoever has the address may read it: no search engine is to have it, and no page it leads to.
        answer["X-Robots-Tag"] = "noindex, nofollow"
        answer["Referrer-Policy"] = "no-referrer"
        return answer

    return guarded


@_by_link
def shown_sheet(request: HttpRequest, link: SheetLink) -> HttpResponse:
    """The build sheet as it is now."""
    parts = sheet_parts(Bench(link.build), link.made_by)
    return render(request, "sheets/shown.html", {**parts, "link": link, "defer_words": DEFER})


@_by_link
def shown_pdf(request: HttpRequest, link: SheetLink) -> HttpResponse:
    """The same as a PDF."""
    bench = Bench(link.build)

    def html() -> str:
        return render_to_string("sheets/pdf.html", {**sheet_parts(bench, link.made_by), "defer_words": DEFER})

    return as_pdf(request, str(link.build), link.made_by, seen_with(bench), html)
