"""The history of a build, its sheet, and the sheet as a PDF."""

import re
from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

import bench
from bench.page.bench import bench_or_404
from bench.page.show import frame
from bench.sheets.content import sheet_parts
from bench.sheets.paint import painted
from bench.sheets.written import written
from bench.shops.access import person_of
from mockup.stations import Station
from mockup.words import DEFER

PDF_STYLES = ("tones.css", "build_sheet.css")
STYLES = Path(bench.__file__).parent / "static" / "bench"


@require_GET
def history(request: HttpRequest, build_id: int) -> HttpResponse:
    """Who read, struck out, changed and signed what, and when; the newest first."""
    found = bench_or_404(build_id)
    lines = list(reversed(written(found)))
    only = request.GET.get("only", "")
    shown = [line for line in lines if _fits(line.is_reading, bool(line.struck), only)]
    context = {**frame(found, Station.ASSEMBLY), "lines": shown, "count": len(lines), "only": only}
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
    # Setting pages in type takes as long to read in as all the rest: only who asks for a PDF waits for it.
    from weasyprint import CSS, HTML  # noqa: PLC0415
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    found = bench_or_404(build_id)
    html = render_to_string("sheets/pdf.html", {**sheet_parts(found, person_of(request)), "defer_words": DEFER})
    # Nothing is fetched for it but the fonts that ship with the application.
    only_files, fonts = URLFetcher(allowed_protocols={"file"}), FontConfiguration()
    page = HTML(string=painted(html, STYLES), url_fetcher=only_files)
    styles = [CSS(filename=STYLES / name, font_config=fonts, url_fetcher=only_files) for name in PDF_STYLES]
    name = re.sub(r"[^a-z0-9]+", "-", str(found.build).lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'inline; filename="{name}.pdf"', "Cache-Control": "no-store"}
    return HttpResponse(
        page.write_pdf(stylesheets=styles, font_config=fonts), content_type="application/pdf", headers=headers
    )
