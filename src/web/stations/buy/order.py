"""To order: the gasket for the target quench, and pistons from targets."""

import math
from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_GET

from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.changes.change import Change
from mockup.changes.stack import GASKET_CHANGED
from mockup.engine.gasket import FinalGasket
from mockup.evaluate import evaluate
from mockup.plans.gasket_to_order import GasketToOrder, gasket_to_order
from mockup.plans.what_if import WhatIf, effects_of, supposed
from mockup.quantity.shown import bench_text, format_bench, format_expanded
from web.page.build_page import BuildPage, build_page_or_404
from web.page.figure_pairs import asked, pairs
from web.page.order_form import OrderForm
from web.page.order_parts import piston_order
from web.page.shown_digest import SHOWN
from web.page.tool_pages import show_tool


@require_GET
def to_order(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the gasket and the pistons to order, from what was typed."""
    page = build_page_or_404(build_id)
    typed = {name: value for name, value in asked(request.GET).items() if name != SHOWN}
    form = OrderForm(page.report, request.GET if typed else None)
    valid = form.is_bound and form.is_valid()
    found = form.cleaned_data if valid else {}
    gasket = gasket_to_order(page.report, found.get("gasket_quench"))
    parts: dict[str, Any] = {"form": form}
    if gasket:
        parts |= _gasket(page, gasket, found.get("gasket_tried"))
    try:
        parts |= piston_order(page.report, form)
    except FaultsError as error:
        form.add_error(None, " ".join(fault.message for fault in error.faults))
    if "effects" in parts:
        parts["piston_pairs"] = pairs(parts["effects"], page.unit)
        parts["sheet_query"] = urlencode({**typed, SHOWN: parts[SHOWN]})
    return show_tool(request, page, "to_order", parts, form.errors if form.is_bound else None, station=Station.BUY)


def _gasket(page: BuildPage, gasket: GasketToOrder, tried_mm: float | None) -> dict[str, Any]:
    unit = page.unit
    thick = tried_mm if tried_mm is not None else _usual(gasket)
    rows = [
        {
            "cylinder": one.cylinder,
            "wanted": f"{format_bench(one.wanted.value, unit)} ±{format_expanded(one.wanted.expanded, unit)}",
            "from": format_bench(one.thinnest_mm, unit),
            "to": "any" if math.isinf(one.thickest_mm) else format_bench(one.thickest_mm, unit),
            "stops": not gasket.serves and one.cylinder in (gasket.thinnest_for, gasket.thickest_for),
        }
        for one in gasket.each
    ]
    parts: dict[str, Any] = {"gasket": gasket, "gasket_rows": rows, "target": bench_text(gasket.target_mm, unit)}
    if thick is None:
        return parts
    final = page.report.job.final_gasket
    other = replace(final, name="", compressed_mm=thick) if final else FinalGasket(compressed_mm=thick)
    change = Change(key="gasket", kind=GASKET_CHANGED, gasket=other)
    after = evaluate(supposed(page.report.job, WhatIf(changes=(change,))))
    words = format_bench(thick, unit)
    parts |= {"thick": bench_text(thick, unit), "gasket_pairs": pairs(effects_of(page.report, after), unit)}
    parts["gasket_address"] = f"{reverse('put-right', args=[page.build.pk])}?{urlencode({'gasket_thick': words})}"
    return parts


def _usual(gasket: GasketToOrder) -> float | None:
    """Return the gasket tried by default: the middle of those that serve, or the thinnest."""
    if not gasket.serves:
        return None
    thick = gasket.thinnest_mm if math.isinf(gasket.thickest_mm) else gasket.middle_mm
    return round(thick, 3) if thick > 0.05 else None
