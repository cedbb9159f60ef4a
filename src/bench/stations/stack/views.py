"""The stack station: what is cut off the deck, what shims and which gasket stand between crown and head."""

from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from bench.builds import services
from bench.entry.taking import take
from bench.page.bench import Bench, bench_or_404
from bench.page.changes import change_lines, mark
from bench.page.show import frame, show
from bench.shelf.models import ShelfGasket, ShelfShim
from bench.shops.access import member_writes, person_of
from bench.stations.stack.form import ChangeForm, FinalGasketForm, ShimsForm, TargetForm
from bench.stations.stack.plans import DeckChart, chart_of, gasket_lines, plan_lines, shim_words
from mockup.checks.check import Kind
from mockup.engine.gasket import BaseShims
from mockup.faults import FaultsError, message_of
from mockup.limits.margins import LimitName
from mockup.plans.gasket_to_order import gasket_to_order, order_words
from mockup.plans.gaskets import gasket_options, suits
from mockup.report import Report
from mockup.stations import Station
from mockup.words import limit_text

STRUCK = ("gasket", "shims", "change", "done")


@member_writes
def stack(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the stack as decided; choose, decide, mark done and strike out."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Any] = {}
    written: dict[str, forms.Form] = {}
    if request.method == "POST":
        done, wrong, written = _post(request, bench)
        if done:
            return redirect(request.get_full_path())
    parts = {**_parts(request, bench), **written, "wrong": wrong}
    return show(request, bench, Station.STACK, parts)


def _post(request: HttpRequest, bench: Bench) -> tuple[bool, dict[str, Any], dict[str, forms.Form]]:
    """Do what was asked. Returns whether it was done, what was wrong, and the form as it was typed."""
    by, posted = person_of(request), request.POST
    if "strike" in posted:
        wrong = take(request, bench, {}, *STRUCK)
        return not wrong, dict(wrong), {}
    if "done" in posted:
        wrong = mark(request, bench)
        return not wrong, dict(wrong), {}
    if "take" in posted:
        _take(request, bench)
        return True, {}, {}
    name, form = _form_posted(request, bench)
    if form.is_valid():
        try:
            services.write(bench.build, form.item, by, typed=" ".join(filter(None, form.data.dict().values()))[-100:])
        except FaultsError as error:
            form.add_error(None, message_of(error))
        else:
            return True, {}, {}
    return False, dict(form.errors), {name: form}


def _form_posted(request: HttpRequest, bench: Bench) -> tuple[str, Any]:
    unit, engine = bench.unit, bench.report.job.engine
    if "change" in request.POST:
        return "change_form", ChangeForm(unit, engine, request.POST)
    if "shims" in request.POST:
        return "shims_form", ShimsForm(unit, engine, request.POST)
    return "gasket_form", FinalGasketForm(unit, engine, request.POST)


def _take(request: HttpRequest, bench: Bench) -> None:
    """Take a gasket off the shelf's list, and the shims that go with it."""
    asked = request.POST["take"]
    for option, row in _options(bench.report):
        if str(row.pk) == asked:
            services.write(bench.build, option.gasket, person_of(request), typed=row.name)
            if bench.build.engine.separate_barrels:
                for cylinder, shims in zip(option.cylinders, option.shims_mm, strict=True):
                    if shims is not None:
                        words = shim_words(shims, bench.unit)
                        item = BaseShims(total_mm=sum(shims), words=words, cylinder=cylinder)
                        services.write(bench.build, item, person_of(request), typed=words)
            return
    raise Http404(asked)


def _options(report: Report) -> list[tuple[Any, ShelfGasket]]:
    rows = [row for row in ShelfGasket.objects.filter(off_since=None) if suits(row.core(), report.job.engine)]
    gaskets = [row.core() for row in rows]
    shims = [row.core() for row in ShelfShim.objects.filter(off_since=None)]
    options = gasket_options(report, gaskets, shims)
    # Two gaskets on the shelf may be alike in every figure; each keeps its own row.
    of = {id(gasket): row for gasket, row in zip(gaskets, rows, strict=True)}
    return [(option, of[id(option.gasket)]) for option in options]


def _parts(request: HttpRequest, bench: Bench) -> dict[str, Any]:
    unit, engine = bench.unit, bench.report.job.engine
    target = TargetForm(bench.unit, bench.deck_sign, request.GET if "target" in request.GET else None)
    wanted = target.cleaned_data["target"] if target.is_bound and target.is_valid() else None
    return {
        "folder": "stack",
        "final": bench.report.job.final_gasket,
        "shims": bench.report.job.final_shims,
        "gasket_form": FinalGasketForm(unit, engine),
        "shims_form": ShimsForm(unit, engine),
        "change_form": ChangeForm(unit, engine),
        "target_form": target,
        "plans": plan_lines(bench.report, wanted) if wanted is not None else [],
        "changes": change_lines(bench),
        "options": gasket_lines(bench.report, _options(bench.report)),
        "quench_limit": _quench_words(bench.report),
        "to_order": order_words(gasket_to_order(bench.report), unit),
    }


@require_GET
def deck_chart(request: HttpRequest, build_id: int) -> HttpResponse:
    """The deck-height chart of separate barrels, to print and keep by the bench."""
    bench = bench_or_404(build_id)
    if not bench.build.engine.separate_barrels:
        raise Http404("Only separate barrels have one.")
    shims = [row.core() for row in ShelfShim.objects.filter(off_since=None)]
    chart: DeckChart = chart_of(bench.report, shims, request.GET.get("targets", ""))
    context = {**frame(bench, Station.STACK), "chart": chart, "stack_url": reverse("stack", args=[build_id])}
    return render(request, "stack/chart.html", context, status=422 if chart.wrong else 200)


def _quench_words(report: Report) -> str:
    window = report.job.sheet.window(LimitName.QUENCH_LOW, LimitName.QUENCH_HIGH)
    return limit_text(window, Kind.QUENCH, report.job.unit) if window.is_set else ""
