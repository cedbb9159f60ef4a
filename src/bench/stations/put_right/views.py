"""Putting it right: the plan, what a change would do, what-ifs kept and compared."""

from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from bench.builds import services
from bench.drawings.before_after import before_after
from bench.entry.taking import take
from bench.page.bench import Bench, bench_or_404
from bench.page.changes import change_lines, mark
from bench.page.entering import Wrong
from bench.page.show import show
from bench.page.shown import refuse_changed
from bench.shelf.models import ShelfCam, ShelfGasket
from bench.shops.access import member_writes, person_of
from bench.shops.once import repeatable
from bench.stations.put_right import lines
from bench.stations.put_right.form import WhatIfForm, typed_of
from mockup.evaluate import evaluate
from mockup.faults import FaultsError
from mockup.outlook import outlook, would_be
from mockup.plans.gaskets import suits
from mockup.plans.what_if import WhatIf, curve_changes, effects_of, supposed
from mockup.report import Report
from mockup.stations import Station

MOST_COMPARED = 8
STRUCK = ("change", "done", "what-if")


@member_writes
def put_right(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the plan and what a change would do; keep it, make it the plan, mark a step done, strike out."""
    bench = bench_or_404(build_id)
    here = reverse("put-right", args=[build_id])
    wrong: dict[str, Any] = {}
    if "strike" in request.POST:
        wrong = dict(take(request, bench, {}, *STRUCK))
        if not wrong:
            return redirect(here)
    elif "done" in request.POST:
        wrong = dict(mark(request, bench))
        if not wrong:
            return redirect(here)
    form = WhatIfForm(bench.report, gaskets_for(bench.report), _typed(request, bench), cams=cams_on_the_shelf())
    name = request.POST.get("name", "").strip()[:60]
    if ("keep" in request.POST or "plan" in request.POST) and form.is_valid():
        try:
            _write(request, bench, replace(form.item, name=name))
        except FaultsError as error:
            for fault in error.faults:
                if fault.path == "name":
                    wrong["name"] = Wrong("", fault.message)
                else:
                    form.add_error(None, fault.message)
        else:
            return redirect(here)
    # A what-if that is only looked at may be sent as often as somebody changes a figure in it.
    repeatable(request)
    parts = {"folder": "put_right", "tabs": lines.TABS, "form": form, "name": name, "plan": change_lines(bench)}
    parts |= {"kept": lines.kept_lines(bench), "compared": _compared(request, bench), **_tried(bench, form)}
    return show(request, bench, Station.RIGHT, parts | {"wrong": {**wrong, **form.errors}})


@require_GET
def tried(request: HttpRequest, build_id: int) -> HttpResponse:
    """What the changes typed so far would do, as the part of the page that shows it; what is wrong, at its fields."""
    bench = bench_or_404(build_id)
    typed = request.GET if lines.asked(request.GET) else None
    form = WhatIfForm(bench.report, gaskets_for(bench.report), typed, cams=cams_on_the_shelf())
    shown = _tried(bench, form)
    context = {"build": bench.build, "unit": bench.unit, "form": form, "wrong_in_form": dict(form.errors), **shown}
    return render(request, "put_right/_tried_answer.html", context)


def gaskets_for(report: Report) -> list[ShelfGasket]:
    """The shelf's gaskets of about this engine's bore."""
    return [row for row in ShelfGasket.objects.filter(off_since=None) if suits(row.core(), report.job.engine)]


def cams_on_the_shelf() -> list[ShelfCam]:
    """The cams of the shop, in the shop or available."""
    return list(ShelfCam.objects.filter(off_since=None))


def _typed(request: HttpRequest, bench: Bench) -> Any:
    """What was typed: posted, in the address, or a kept what-if that is asked for; None for nothing yet."""
    if request.method == "POST" and "strike" not in request.POST:
        return request.POST
    if "kept" in request.GET:
        kept = {str(line.pk): line.item for line in lines.kept_lines(bench)}
        if request.GET["kept"] not in kept:
            raise Http404(request.GET["kept"])
        return typed_of(kept[request.GET["kept"]], bench.report, gaskets_for(bench.report), cams_on_the_shelf())
    return request.GET if lines.asked(request.GET) and "compare" not in request.GET else None


def _write(request: HttpRequest, bench: Bench, what_if: WhatIf) -> None:
    """Keep the what-if by its name, or make it the plan. Raises FaultsError where it cannot be so, or is empty."""
    after = evaluate(supposed(bench.report.job, what_if))
    if "plan" in request.POST:
        effects = lines.pairs(effects_of(bench.report, after), bench.unit)
        now = lines.shown_of(replace(what_if, name=""), effects, bench.report)
        refuse_changed(request.POST, now, "the page shows now what it would do.")
        services.plan(bench.build, what_if, bench.report.job.running, person_of(request))
    else:
        services.keep_what_if(bench.build, what_if, person_of(request))


def _tried(bench: Bench, form: WhatIfForm) -> dict[str, Any]:
    """What the what-if in the form would do; where the engine stands while it is empty or wrong."""
    before = bench.report
    if not form.is_bound or not form.is_valid() or form.item.is_empty:
        return _as_it_stands(bench)
    try:
        after = evaluate(supposed(before.job, form.item))
    except FaultsError as error:
        form.add_error(None, " ".join(fault.message for fault in error.faults))
        return _as_it_stands(bench)
    curves = curve_changes(before, after)
    every = lines.every_check(before, after)
    effects = lines.pairs(effects_of(before, after), bench.unit)
    return {
        "tried": lines.what_words(form.item, before),
        "shown": lines.shown_of(form.item, effects, before),
        "pairs": effects,
        "every": every,
        "lost": lines.lost(every),
        "chart": before_after(curves, bench.unit),
        "ratio_words": lines.ratio_words(curves, bench.unit),
        "estimate": lines.estimate(before, after),
        "lash": lines.lash_lines(after),
        "outlook": would_be(outlook(after, before)),
    }


def _as_it_stands(bench: Bench) -> dict[str, Any]:
    """The strip and the curves of the engine as it is: what a change is held against."""
    now = bench.report
    curves = curve_changes(now, now)
    return {"stands": lines.pairs(effects_of(now, now), bench.unit), "chart": before_after(curves, bench.unit)}


def _compared(request: HttpRequest, bench: Bench) -> list[tuple[str, list[lines.FigurePair]]]:
    """Every kept what-if beside the build as it is, where that is asked for."""
    if "compare" not in request.GET:
        return []
    found = []
    for line in lines.kept_lines(bench)[-MOST_COMPARED:]:
        try:
            after = evaluate(supposed(bench.report.job, line.item))
        except FaultsError:
            # Kept before the engine itself became another: it cannot be supposed any more.
            continue
        found.append((line.name, lines.pairs(effects_of(bench.report, after), bench.unit)))
    return found
