"""The history of a build, its build sheet, and the build sheet as a PDF."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from mockup.base.stations import Station
from web.page.answers import frame
from web.page.build_page import build_page_or_404
from web.page.log_words import written
from web.sheets.embedded_pictures import seen_with
from web.sheets.pdf import as_pdf
from web.sheets.sheet_content import sheet_parts
from web.shops.access import person_of
from web.shops.clock import zone_words


@require_GET
def history(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show who read, struck out, changed and signed what, and when; newest first."""
    found = build_page_or_404(build_id)
    lines = list(reversed(written(found)))
    only = request.GET.get("only", "")
    shown = [line for line in lines if _fits(line.is_reading, bool(line.struck), only)]
    context = {
        **frame(found, Station.ASSEMBLY),
        "lines": shown,
        "count": len(lines),
        "only": only,
        "zone": zone_words(),
    }
    return render(request, "sheets/history.html", context)


def _fits(is_reading: bool, struck: bool, only: str) -> bool:
    return {"readings": is_reading, "struck": struck, "others": not is_reading}.get(only, True)


@require_GET
@never_cache
def sheet(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the build sheet, to read and to print."""
    found = build_page_or_404(build_id)
    return render(
        request, "sheets/sheet.html", {**frame(found, Station.ASSEMBLY), **sheet_parts(found, person_of(request))}
    )


@require_GET
def sheet_pdf(request: HttpRequest, build_id: int) -> HttpResponse:
    """Return the build sheet as a PDF for the customer's file."""
    found = build_page_or_404(build_id)
    by = person_of(request)

    def html() -> str:
        return render_to_string("sheets/pdf.html", sheet_parts(found, by))

    return as_pdf(request, str(found.build), by, seen_with(found), html)
