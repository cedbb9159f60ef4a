"""Remedies: the least work that makes all clear, within what the shop has."""

from dataclasses import replace
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.base.faults import FaultsError
from mockup.changes.change import ChangeKind
from mockup.changes.options import Cut
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.checks.check import Check
from mockup.engine.gasket import shims_under
from mockup.limits.judge import State
from mockup.plans.gasket_to_order import gasket_to_order, order_words
from mockup.plans.levers import ShopLimits, can_be_made
from mockup.plans.remedies import remedies, still_in_the_way, worth_measuring
from mockup.plans.shim_stacks import alike_under_all, stacks_of
from mockup.quantity.shown import bench_text, format_bench, format_exact, format_margin
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU, Unit
from mockup.report import Report
from mockup.words.report_text import amount, finding_text
from web.drawings.margin_bars import barred, shortest
from web.page.build_page import BuildPage, build_page_or_404
from web.page.fields import LengthField, UnitFormMixin
from web.shelf.models import ShelfGasket, ShelfShim
from web.stations.put_right import lines
from web.stations.put_right.of_the_shelf import gaskets_for

STEPS_MM = {Unit.INCH: (5 * MM_PER_THOU, MM_PER_THOU), Unit.MILLIMETRE: (0.1, 0.02)}
"""The steps in which reliefs, and heads and decks, are cut: what a shop can hold; common practice, no source."""
MOST_STACKS = 24
MOST_SHOWN = 3
"""How many plans the page shows without being asked."""
USUAL_CAM_DEG = (-4.0, -2.0, 2.0, 4.0)
"""By how much a cam is tried where its steps are not stated: common practice, no source."""
USUAL_RELIEF_MM = {Unit.INCH: 60 * MM_PER_THOU, Unit.MILLIMETRE: 1.5}
"""How deep reliefs are tried where the crown under them is not stated: common practice, no source."""
UNTRIED = {"gaskets": "another gasket", "cam_deg": "the cam", "ratios": "other rockers"}
"""What an empty limit keeps the search from trying; cuts say it themselves."""


def cuts_of(report: Report) -> list[tuple[ChangeKind, Cut]]:
    """Return the kinds of cut that could be made on this engine, least work first."""
    remedy = [(kind, kind.remedy) for kind in ChangeKind.all() if kind.remedy and can_be_made(kind, report.job)]
    by_work = sorted(remedy, key=lambda pair: (pair[1].work, pair[1].order))
    return [(kind, one.cut) for kind, one in by_work if one.cut]


class LimitsForm(UnitFormMixin, forms.Form):
    """What the shop has and is ready to do. ``item`` holds it for the core."""

    item: ShopLimits
    cam = forms.CharField(label="Cam can be moved by", required=False, help_text="crank degrees, as 2, 4: either way")
    cams = forms.ChoiceField(
        label="Which cam", required=False, choices=[("", "both cams alike"), ("apart", "each separately")]
    )
    ratios = forms.CharField(label="Rockers available", required=False, help_text="ratios, as 1.5, 1.6")
    pushrods = LengthField(label="Other pushrods, in steps of", required=False, help_text="empty: none available")
    crown = LengthField(label="Crown under the relief, now", required=False)
    least = LengthField(label="Crown the maker allows, least", required=False)
    land = LengthField(label="Land above the top ring, now", required=False)
    land_least = LengthField(label="Land the maker allows, least", required=False)

    def __init__(self, report: Report, gaskets: list[ShelfGasket], data: Any = None) -> None:
        super().__init__(data, initial=_initial(report, gaskets), auto_id="within-%s")
        self.report, self.rows = report, {str(row.pk): row for row in gaskets}
        choices = [(str(row.pk), str(row)) for row in gaskets]
        self.fields["gaskets"] = forms.MultipleChoiceField(
            label="Gaskets on the shelf", choices=choices, required=False, widget=forms.CheckboxSelectMultiple
        )
        for kind, cut in cuts_of(report):
            if not cut.own:
                self.fields[kind.field.name] = LengthField(label=cut.label, required=False, help_text=cut.help_text)
        if report.job.pushrods_chosen is None:
            del self.fields["pushrods"]
        if not report.job.may_have_two_cams:
            del self.fields["cams"]
        self.read_in(report.job.unit)
        self.dress()
        self.fields["gaskets"].widget.attrs["class"] = "form-check-input"

    def clean(self) -> dict[str, Any]:
        """Check the limits by the core."""
        found = super().clean() or {}
        degrees, ratios = self._numbers("cam", found), self._numbers("ratios", found)
        crown, least = found.get("crown"), found.get("least")
        if (crown is None) != (least is None):
            self.add_error("least", "Give both the present crown and the least, or neither: reliefs are not cut.")
        if (found.get("land") is None) != (found.get("land_least") is None):
            self.add_error("land_least", "Give both the present land and the least allowed, or neither.")
        if self.errors:
            return found
        relief_step, cut_step = STEPS_MM[self.report.job.unit]
        try:
            self.item = ShopLimits(
                gaskets=tuple(self.rows[pk].core() for pk in found["gaskets"]),
                cam_deg=tuple(way * one for one in degrees for way in (1, -1)),
                cams_apart=bool(found.get("cams")),
                ratios=ratios,
                pushrod_step_mm=found.get("pushrods") or 0.0,
                shims_mm=_shims(self.report),
                cuts_mm=self._cuts(found),
                relief_step_mm=relief_step,
                cut_step_mm=cut_step,
            )
        except FaultsError as error:
            names = {"pushrod_step_mm": "pushrods", "cam_deg": "cam", f"cuts_mm.{RELIEF_DEEPENED}": "crown"}
            names |= {f"cuts_mm.{kind}": kind.field.name for kind, cut in cuts_of(self.report) if not cut.own}
            for fault in error.faults:
                name = names.get(fault.path, fault.path)
                self.add_error(name if name in self.fields else None, fault.message)
        return found

    def _cuts(self, found: dict[str, Any]) -> dict[ChangeKind, float]:
        """Return how deep each kind of cut may go [mm]; reliefs to the limit of the crown."""
        deepest = {kind: found.get(kind.field.name) or 0.0 for kind, cut in cuts_of(self.report) if not cut.own}
        crown, least = found.get("crown"), found.get("least")
        if crown is not None and least is not None:
            land, land_least = found.get("land"), found.get("land_least")
            spare = crown - least if land is None or land_least is None else min(crown - least, land - land_least)
            deepest[RELIEF_DEEPENED] = max(spare, 0.0)
        return deepest

    def _numbers(self, name: str, found: dict[str, Any]) -> tuple[float, ...]:
        text = found.get(name) or ""
        try:
            numbers = tuple(float(part) for part in text.replace(";", ",").split(",") if part.strip())
        except ValueError:
            self.add_error(name, "Numbers with commas between them, as in 2, 4, 8.")
            return ()
        return numbers


def _initial(report: Report, gaskets: list[ShelfGasket]) -> dict[str, Any]:
    return {
        "gaskets": [str(row.pk) for row in gaskets],
        "cam": ", ".join(f"{step:g}" for step in report.job.cam_steps_deg),
        "pushrods": report.job.pushrods_chosen.step_mm if report.job.pushrods_chosen else None,
        "cams": "apart" if report.job.cam_card and report.job.cam_card.two_cams else "",
    }


def _shims(report: Report) -> tuple[float, ...]:
    """Return by how much the base shims could change with the stock: the nearest either way."""
    job = report.job
    if not job.engine.separate_barrels:
        return ()
    kinds = [row.core() for row in ShelfShim.objects.filter(off_since=None)]
    under = [shims_under(job.final_shims, cylinder) for cylinder in job.engine.cylinder_numbers]
    return alike_under_all(stacks_of(kinds), [shims.total_mm if shims else 0.0 for shims in under])[:MOST_STACKS]


def usual_limits(report: Report, gaskets: list[ShelfGasket]) -> ShopLimits | None:
    """Return what is tried without being asked: the shelf, the cam's steps, reliefs.

    None where even that makes too many combinations.
    """
    typed = _initial(report, gaskets)
    if typed["pushrods"] is not None:
        typed["pushrods"] = format_exact(typed["pushrods"], report.job.unit)
    form = LimitsForm(report, gaskets, typed)
    if not form.is_valid():
        return None
    steps = form.item.cam_deg or USUAL_CAM_DEG
    try:
        return replace(form.item, cam_deg=steps, cuts_mm={RELIEF_DEEPENED: USUAL_RELIEF_MM[report.job.unit]})
    except FaultsError:
        return form.item


def parts_of_the_search(request: HttpRequest, page: BuildPage) -> dict[str, Any]:
    """Return what is short, and the plans within typed limits; others are fetched later."""
    gaskets = gaskets_for(page.report)
    form = LimitsForm(page.report, gaskets, request.GET if "find" in request.GET else None)
    failing, more = shortest(page.report)
    parts: dict[str, Any] = {"limits_form": form, "in_the_way": still_in_the_way(page.report)}
    parts["measure"] = [
        _measured_better(check, known_to, page.unit) for check, known_to in worth_measuring(page.report)
    ]
    judged = [check for check in page.report.checks if check.margin is not None]
    parts |= {"shortest": failing, "short_more": more, "judged_count": len(judged)}
    parts["clear_count"] = sum(check.state is State.CLEAR for check in judged)
    if form.is_bound and form.is_valid():
        parts |= _found(page, form.item, gaskets)
    return parts


@require_GET
def plans(request: HttpRequest, build_id: int) -> HttpResponse:
    """Return the plans within what the shelf has, as a fragment of the page."""
    page = build_page_or_404(build_id)
    gaskets = gaskets_for(page.report)
    limits = usual_limits(page.report, gaskets)
    parts: dict[str, Any] = {"in_the_way": still_in_the_way(page.report), "untold": True}
    if limits:
        parts |= _found(page, limits, gaskets)
        parts |= {"found": parts["found"][:MOST_SHOWN], "cam_usual": not page.report.job.cam_steps_deg}
    context = {"build": page.build, "unit": page.unit, **parts}
    return render(request, "put_right/_plans.html", context)


def _measured_better(check: Check, known_to: float, unit: Unit) -> str:
    """Return what measuring better would settle, rounded down."""
    name = f" {BENCH_UNIT[unit]}" if check.kind.is_length else ""
    wanted = format_margin(known_to, unit).lstrip("+") if check.kind.is_length else f"{known_to:.2f}"
    return (
        f"{check.label} reads {finding_text(check.governing, check.kind, unit)}; known to ±{wanted}{name} it is clear."
    )


def _found(page: BuildPage, limits: ShopLimits, gaskets: list[ShelfGasket]) -> dict[str, Any]:
    """Return the plans of least work within limits, as rows with their margins as bars."""
    found = remedies(page.report, limits)
    obstacle = found.obstacle
    lacks = ""
    if obstacle:
        unit = f" {BENCH_UNIT[page.unit]}" if obstacle.kind.is_length else ""
        lacks = f"{amount(found.lacks, obstacle.kind, page.unit)}{unit}"
    deepest = limits.cuts_mm.get(RELIEF_DEEPENED)
    return {
        "found": [lines.plan_line(plan, page.report, gaskets, barred(page.report)) for plan in found.plans],
        "searched": True,
        "obstacle": obstacle,
        "lacks": lacks,
        "gasket_words": order_words(gasket_to_order(page.report), page.unit),
        "tried_count": found.tried,
        "untried": _untried(page.report, limits),
        "relief_words": f"reliefs up to {bench_text(deepest, page.unit)} deeper" if deepest else "reliefs not cut",
        "steps": [f"{format_bench(one, page.unit)} {BENCH_UNIT[page.unit]}" for one in STEPS_MM[page.unit]],
    }


def _untried(report: Report, limits: ShopLimits) -> list[str]:
    """Return what was not allowed and would be possible in this engine."""
    found = [words for name, words in UNTRIED.items() if not getattr(limits, name)]
    if report.job.pushrods_chosen and not limits.pushrod_step_mm:
        found.append("other pushrods")
    return found + [cut.untried for kind, cut in _by_untried(report) if not limits.cuts_mm.get(kind)]


def _by_untried(report: Report) -> list[tuple[ChangeKind, Cut]]:
    return sorted(cuts_of(report), key=lambda pair: pair[0].remedy.order if pair[0].remedy else 0.0)
