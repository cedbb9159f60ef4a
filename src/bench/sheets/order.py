"""The order sheet: what is asked of a piston maker, with its drawing and a place for the answer; page and PDF."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from bench.page.bench import Bench, bench_or_404
from bench.page.order_form import OrderForm
from bench.page.order_parts import piston_order
from bench.page.shown import SHOWN
from bench.sheets.pdf import as_pdf
from bench.shops.access import person_of
from mockup.faults import FaultsError
from mockup.words import DEFER, engine_line


def _parts(request: HttpRequest, found: Bench) -> dict[str, Any]:
    """What stands on the sheet; 404 where the address asks for no pistons that can be ordered."""
    form = OrderForm(found.report, request.GET)
    try:
        parts = piston_order(found.report, form)
    except FaultsError as error:
        raise Http404(str(error)) from error
    if not parts:
        raise Http404("Nothing is asked of pistons.")
    by = person_of(request)
    return {
        **parts,
        "shop": by.shop,
        "made_by": by.shown_name,
        "made_at": timezone.localtime(),
        "build": found.build,
        "unit": found.unit,
        "engine_line": engine_line(found.report.job.engine, found.unit),
        "cylinders": found.report.job.engine.cylinders,
        "query": request.GET.urlencode(),
        "changed": request.GET.get(SHOWN, parts[SHOWN]) != parts[SHOWN],
    }


@require_GET
@never_cache
def order_sheet(request: HttpRequest, build_id: int) -> HttpResponse:
    """The order sheet, to read and to print."""
    return render(request, "sheets/order.html", _parts(request, bench_or_404(build_id)))


@require_GET
def order_pdf(request: HttpRequest, build_id: int) -> HttpResponse:
    """The same as a PDF for the maker."""
    found = bench_or_404(build_id)
    parts = _parts(request, found)

    def html() -> str:
        return render_to_string("sheets/order_pdf.html", {**parts, "defer_words": DEFER})

    return as_pdf(request, f"{found.build} order", person_of(request), f"{found.touched} {parts['query']}", html)
