"""The history of a build, its sheet, and the sheet as a PDF."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from bench.page.bench import bench_or_404
from bench.page.show import frame
from bench.page.written import written
from bench.sheets.content import sheet_parts
from bench.sheets.pdf import as_pdf
from bench.sheets.pictured import seen_with
from bench.shops.access import person_of
from bench.shops.clock import zone_words
from mockup.stations import Station
from mockup.words import DEFER


@require_GET
def history(request: HttpRequest, build_id: int) -> HttpResponse:
    """Who read, struck out, changed and signed what, and when; the newest first."""
    found = bench_or_404(build_id)
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
    """The build sheet, to read and to print."""
    found = bench_or_404(build_id)
    return render(
        request, "sheets/sheet.html", {**frame(found, Station.ASSEMBLY), **sheet_parts(found, person_of(request))}
    )


@require_GET
def sheet_pdf(request: HttpRequest, build_id: int) -> HttpResponse:
    """The same sheet as a PDF for the customer's file."""
    found = bench_or_404(build_id)
    by = person_of(request)

    def html() -> str:
        return render_to_string("sheets/pdf.html", {**sheet_parts(found, by), "defer_words": DEFER})

    return as_pdf(request, str(found.build), by, seen_with(found), html)
