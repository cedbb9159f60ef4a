"""The stack station: deck cuts, shims and the gasket between crown and head."""

from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from mockup.base.faults import Fault, FaultsError, message_of, refuse
from mockup.base.stations import Station
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.engine.gasket import BaseShims
from mockup.engine.makers_chart import EXAMPLE, HOW, format_makers_chart, parse_makers_chart
from mockup.plans.gasket_to_order import gasket_to_order, order_words
from mockup.plans.gaskets import gasket_options, suits
from mockup.report import Report
from mockup.words.report_text import limit_text
from web.builds import services
from web.entry.without_script import take
from web.page.answers import frame, show
from web.page.build_page import BuildPage, build_page_or_404
from web.page.change_rows import change_rows, mark
from web.shelf.models import ShelfGasket, ShelfShim
from web.shops.access import member_writes, person_of
from web.stations.stack.form import ChangeForm, FinalGasketForm, ShimsForm, TargetForm
from web.stations.stack.plans import DeckChart, chart_of, gasket_rows, plan_rows, shim_words
from web.stations.stack.usual import UsualGasket, usual_gaskets

LONGEST_CHART = 5000
"""The longest typed chart that is read [characters]."""
STRUCK = ("gasket", "shims", "change", "done")


@member_writes
def stack(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the stack as decided; choose, decide, mark done and strike out."""
    page = build_page_or_404(build_id)
    wrong: dict[str, Any] = {}
    written: dict[str, forms.Form] = {}
    if request.method == "POST":
        done, wrong, written = _post(request, page)
        if done:
            return redirect(request.get_full_path())
    parts = {**_parts(request, page), **written, "wrong": wrong}
    return show(request, page, Station.STACK, parts)


def _post(request: HttpRequest, page: BuildPage) -> tuple[bool, dict[str, Any], dict[str, forms.Form]]:
    """Do what was asked. Returns whether it was done, what was wrong, and the form as typed."""
    by, posted = person_of(request), request.POST
    if "strike" in posted:
        wrong = take(request, page, {}, *STRUCK)
        return not wrong, dict(wrong), {}
    if "done" in posted:
        wrong = mark(request, page)
        return not wrong, dict(wrong), {}
    if "take" in posted:
        _take(request, page)
        return True, {}, {}
    name, form = _form_posted(request, page)
    if form.is_valid():
        try:
            services.write(page.build, form.item, by, typed=" ".join(filter(None, form.data.dict().values()))[-100:])
        except FaultsError as error:
            form.add_error(None, message_of(error))
        else:
            return True, {}, {}
    return False, dict(form.errors), {name: form}


def _form_posted(request: HttpRequest, page: BuildPage) -> tuple[str, Any]:
    unit, engine = page.unit, page.report.job.engine
    if "change" in request.POST:
        return "change_form", ChangeForm(unit, engine, request.POST)
    if "shims" in request.POST:
        return "shims_form", ShimsForm(unit, engine, request.POST)
    return "gasket_form", FinalGasketForm(unit, engine, request.POST)


def _take(request: HttpRequest, page: BuildPage) -> None:
    """Take a gasket from the shelf's list, with its shims."""
    asked = request.POST["take"]
    for option, row in _options(page.report):
        if str(row.pk) == asked:
            services.write(page.build, option.gasket, person_of(request), typed=row.name)
            if page.build.engine.separate_barrels:
                for cylinder, shims in zip(option.cylinders, option.shims_mm, strict=True):
                    if shims is not None:
                        words = shim_words(shims, page.unit)
                        item = BaseShims(total_mm=sum(shims), words=words, cylinder=cylinder)
                        services.write(page.build, item, person_of(request), typed=words)
            return
    raise Http404(asked)


def _options(report: Report) -> list[tuple[Any, ShelfGasket | UsualGasket]]:
    shelf = [row for row in ShelfGasket.objects.filter(off_since=None) if suits(row.core(), report.job.engine)]
    rows: list[ShelfGasket | UsualGasket] = [*(shelf or usual_gaskets(report.job.unit))]
    gaskets = [row.core() for row in rows]
    shims = [row.core() for row in ShelfShim.objects.filter(off_since=None)]
    options = gasket_options(report, gaskets, shims)
    # Two gaskets on the shelf may have the same figures; each keeps its own row.
    of = {id(gasket): row for gasket, row in zip(gaskets, rows, strict=True)}
    return [(option, of[id(option.gasket)]) for option in options]


def _parts(request: HttpRequest, page: BuildPage) -> dict[str, Any]:
    unit, engine = page.unit, page.report.job.engine
    target = TargetForm(page.unit, page.deck_sign, request.GET if "target" in request.GET else None)
    wanted = target.cleaned_data["target"] if target.is_bound and target.is_valid() else None
    options = _options(page.report)
    return {
        "folder": "stack",
        "final": page.report.job.final_gasket,
        "shims": page.report.job.final_shims,
        "gasket_form": FinalGasketForm(unit, engine),
        "shims_form": ShimsForm(unit, engine),
        "change_form": ChangeForm(unit, engine),
        "target_form": target,
        "plans": plan_rows(page.report, wanted) if wanted is not None else [],
        "changes": change_rows(page),
        "options": gasket_rows(page.report, options),
        "usual": any(isinstance(row, UsualGasket) for _, row in options),
        "none_fits": bool(options) and not any(option.fits for option, _ in options),
        "quench_limit": _quench_words(page.report),
        "to_order": order_words(gasket_to_order(page.report), unit),
    }


@member_writes
def deck_chart(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the deck-height chart of separate barrels, to print; keep the maker's own chart."""
    page = build_page_or_404(build_id)
    if not page.build.engine.separate_barrels:
        raise Http404("Only separate barrels have a deck-height chart.")
    makers, wrong = page.report.job.makers_chart, ""
    typed = format_makers_chart(makers, page.unit) if makers else ""
    if request.method == "POST":
        typed = request.POST.get("rows", "")
        try:
            # A row cut in its last figure would read as another figure.
            refuse([Fault("rows", f"At most {LONGEST_CHART} characters.")] if len(typed) > LONGEST_CHART else [])
            kept = parse_makers_chart(typed, page.unit, page.deck_sign)
            services.write(page.build, kept, person_of(request), typed=f"{len(kept.rows)} rows")
            return redirect(request.get_full_path())
        except FaultsError as error:
            wrong = message_of(error)
    shims = [row.core() for row in ShelfShim.objects.filter(off_since=None)]
    asked = {name: request.GET.get(name, "")[:200] for name in ("targets", "shims")}
    chart: DeckChart = chart_of(page.report, shims, asked["targets"], asked["shims"])
    context = {
        **frame(page, Station.STACK),
        "chart": chart,
        "other_shims": asked["shims"],
        "makers": makers,
        "makers_typed": typed,
        "makers_wrong": wrong,
        "makers_how": HOW.format(**EXAMPLE[page.unit]),
        "stack_url": reverse("stack", args=[build_id]),
    }
    return render(request, "stack/chart.html", context, status=422 if chart.refused or wrong else 200)


def _quench_words(report: Report) -> str:
    window = report.job.limits.window(QUENCH_LOW_LIMIT, QUENCH_HIGH_LIMIT)
    return limit_text(window, QUENCH_CHECK, report.job.unit) if window.is_set else ""
