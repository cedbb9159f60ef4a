"""The printed order to a piston maker, with drawing and space for an answer."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from mockup.base.faults import FaultsError
from mockup.plans.maker_asks import maker_asks
from mockup.words.report_text import engine_line
from web.page.build_page import BuildPage, build_page_or_404
from web.page.order_form import OrderForm
from web.page.order_parts import piston_order
from web.page.shown_digest import SHOWN
from web.sheets.pdf import as_pdf
from web.shops.access import person_of


def _parts(request: HttpRequest, found: BuildPage) -> dict[str, Any]:
    """Return the content of the order; 404 where no pistons can be ordered."""
    form = OrderForm(found.report, request.GET)
    try:
        parts = piston_order(found.report, form)
    except FaultsError as error:
        raise Http404(str(error)) from error
    if not parts:
        raise Http404("No pistons are asked for.")
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
        "asks": list(maker_asks(found.report)),
        "query": request.GET.urlencode(),
        "changed": request.GET.get(SHOWN, parts[SHOWN]) != parts[SHOWN],
    }


@require_GET
@never_cache
def order_sheet(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the order, to read and to print."""
    return render(request, "sheets/order.html", _parts(request, build_page_or_404(build_id)))


@require_GET
def order_pdf(request: HttpRequest, build_id: int) -> HttpResponse:
    """Return the order as a PDF for the maker."""
    found = build_page_or_404(build_id)
    parts = _parts(request, found)

    def html() -> str:
        return render_to_string("sheets/order_pdf.html", parts)

    return as_pdf(request, f"{found.build} order", person_of(request), f"{found.touched} {parts['query']}", html)
