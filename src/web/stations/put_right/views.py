"""Putting it right: the plan, the effect of a change, what-ifs stored and compared."""

from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from mockup.advice.outlook import outlook, would_be
from mockup.base.faults import FaultsError
from mockup.evaluate import evaluate
from mockup.plans.what_if import WhatIf, curve_changes, effects_of, supposed
from web.builds import services
from web.drawings.before_after import before_after
from web.drawings.margin_bars import barred, margin_bars
from web.entry.without_script import take
from web.page.build_page import BuildPage, build_page_or_404
from web.page.change_rows import change_rows, mark
from web.page.figure_pairs import FigurePair, asked, pairs
from web.page.read_fields import Wrong
from web.page.shown_digest import refuse_changed
from web.page.tool_pages import show_tool
from web.shops.access import member_writes, person_of
from web.shops.once import repeatable
from web.stations.put_right import lines
from web.stations.put_right.form import WhatIfForm, typed_of
from web.stations.put_right.of_the_shelf import cams_on_the_shelf, gaskets_for
from web.stations.put_right.search import parts_of_the_search

MOST_COMPARED = 8
STRUCK = ("change", "done", "what-if")


@member_writes
def put_right(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the plan and a change's effect; store it, plan it, mark it done, strike out."""
    page = build_page_or_404(build_id)
    here = reverse("put-right", args=[build_id])
    wrong: dict[str, Any] = {}
    if "strike" in request.POST:
        wrong = dict(take(request, page, {}, *STRUCK))
        if not wrong:
            return redirect(here)
    elif "done" in request.POST:
        wrong = dict(mark(request, page))
        if not wrong:
            return redirect(here)
    form = WhatIfForm(page.report, gaskets_for(page.report), _typed(request, page), cams=cams_on_the_shelf())
    name = request.POST.get("name", "").strip()[:60]
    if ("keep" in request.POST or "plan" in request.POST) and form.is_valid():
        try:
            _write(request, page, replace(form.item, name=name))
        except FaultsError as error:
            for fault in error.faults:
                if fault.path == "name":
                    wrong["name"] = Wrong("", fault.message)
                else:
                    form.add_error(None, fault.message)
        else:
            return redirect(here)
    # A what-if that is only tried may be sent as often as its figures change.
    repeatable(request)
    parts = {"form": form, "name": name, "plan": change_rows(page)}
    parts |= {"kept": lines.kept_rows(page), "compared": _compared(request, page), **_tried(page, form)}
    searched = parts_of_the_search(request, page)
    wrong |= {**form.errors, **searched["limits_form"].errors}
    return show_tool(request, page, "", {**parts, **searched}, wrong, whole=True)


@require_GET
def tried(request: HttpRequest, build_id: int) -> HttpResponse:
    """Return the effect of the changes typed so far, as a fragment with faults at fields."""
    page = build_page_or_404(build_id)
    typed = request.GET if asked(request.GET) else None
    form = WhatIfForm(page.report, gaskets_for(page.report), typed, cams=cams_on_the_shelf())
    shown = _tried(page, form)
    context = {"build": page.build, "unit": page.unit, "form": form, "wrong_in_form": dict(form.errors), **shown}
    return render(request, "put_right/_tried_answer.html", context)


def _typed(request: HttpRequest, page: BuildPage) -> Any:
    """Return what was typed: posted, in the address, or a stored what-if; None for nothing yet."""
    if request.method == "POST" and "strike" not in request.POST:
        return request.POST
    if "kept" in request.GET:
        kept = {str(line.pk): line.item for line in lines.kept_rows(page)}
        if request.GET["kept"] not in kept:
            raise Http404(request.GET["kept"])
        return typed_of(kept[request.GET["kept"]], page.report, gaskets_for(page.report), cams_on_the_shelf())
    apart = {"compare", "find"} & set(request.GET)
    return request.GET if asked(request.GET) and not apart else None


def _write(request: HttpRequest, page: BuildPage, what_if: WhatIf) -> None:
    """Store the what-if under its name, or make it the plan.

    Raises FaultsError where it is impossible or empty.
    """
    after = evaluate(supposed(page.report.job, what_if))
    if "plan" in request.POST:
        effects = pairs(effects_of(page.report, after), page.unit)
        now = lines.shown_of(replace(what_if, name=""), effects, page.report)
        refuse_changed(request.POST, now, "the page now shows what it would do.")
        services.plan(page.build, what_if, page.report.job.running, person_of(request))
    else:
        services.keep_what_if(page.build, what_if, person_of(request))


def _tried(page: BuildPage, form: WhatIfForm) -> dict[str, Any]:
    """Return the effect of the form's what-if; the present state if empty or wrong."""
    before = page.report
    if not form.is_bound or not form.is_valid() or form.item.is_empty:
        return _as_it_stands(page)
    try:
        after = evaluate(supposed(before.job, form.item))
    except FaultsError as error:
        form.add_error(None, " ".join(fault.message for fault in error.faults))
        return _as_it_stands(page)
    curves = curve_changes(before, after)
    every = lines.every_check(before, after)
    effects = pairs(effects_of(before, after), page.unit)
    return {
        "tried": lines.what_words(form.item, before),
        "shown": lines.shown_of(form.item, effects, before),
        "pairs": effects,
        "bars": margin_bars(barred(before), after, page.unit),
        "every": every,
        "lost": lines.lost(every),
        "chart": before_after(curves, page.unit),
        "ratio_words": lines.ratio_words(curves, page.unit),
        "estimate": lines.estimate(before, after),
        "lash": lines.lash_rows(after),
        "outlook": would_be(outlook(after, before)),
    }


def _as_it_stands(page: BuildPage) -> dict[str, Any]:
    """Return the strip and the curves of the engine as it is, for comparison."""
    now = page.report
    curves = curve_changes(now, now)
    return {
        "stands": pairs(effects_of(now, now), page.unit),
        "bars": margin_bars(barred(now), None, page.unit),
        "chart": before_after(curves, page.unit),
    }


def _compared(request: HttpRequest, page: BuildPage) -> list[tuple[str, list[FigurePair]]]:
    """Return every stored what-if beside the build as it is, if asked for."""
    if "compare" not in request.GET:
        return []
    found = []
    for line in lines.kept_rows(page)[-MOST_COMPARED:]:
        try:
            after = evaluate(supposed(page.report.job, line.item))
        except FaultsError:
            # The engine changed since it was stored, so that it is no longer possible.
            continue
        found.append((line.name, pairs(effects_of(page.report, after), page.unit)))
    return found
