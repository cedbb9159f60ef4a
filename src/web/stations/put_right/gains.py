"""Sensitivity: one unit of each change on every check, and how likely each holds."""

from typing import Any

from django import forms
from django.http import HttpRequest

from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.checks.check import Check
from mockup.plans.batch import Batch
from mockup.plans.sensitivity import Gain, Likely, Tolerances, gains, nudges, tolerance_stack
from mockup.quantity.shown import format_bench, plain_mm_text
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU, Unit
from mockup.report import worst
from web.page.build_page import BuildPage
from web.page.fields import CoreFormMixin, LengthField, NumberField, UnitFormMixin

NOTHING = 5e-6
UNIT_MM = {Unit.INCH: MM_PER_THOU, Unit.MILLIMETRE: 0.1}
"""The length for which gains are shown: a thou, a tenth of a millimetre."""


class ToleranceForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """How far an assembled engine may be from what was measured."""

    CORE = Tolerances
    gasket_mm = LengthField(label="Between gaskets, ±")
    cam_deg = NumberField(label="Cam: key, chain, wheel, ±", help_text="crank degrees")
    ratio = NumberField(label="Rocker ratio, ±", help_text="as 0.01")
    relief_mm = LengthField(label="Between valves, ±", help_text="relief, seat and tip")
    deck_mm = LengthField(label="Between crowns, ±", help_text="0 where every deck was read")


def parts_of_the_gains(request: HttpRequest, page: BuildPage, many: Batch) -> dict[str, Any]:
    """Return the gains; with tolerances, the stack."""
    form = ToleranceForm(page.unit, request.GET if "stack" in request.GET else None, initial=_usual(page.unit))
    parts: dict[str, Any] = {"tolerances": form, **_gains(page, many)}
    # A hundred thousand engines of a large build take too long for every page: drawn on request.
    if many.checks and form.is_bound and form.is_valid():
        stack = tolerance_stack(many, form.item)
        parts |= {
            "likely": [_likely(one) for one in sorted(stack.each, key=lambda one: one.holds)],
            "all_hold": f"{100 * stack.all_hold:.1f} %",
            "draws": stack.draws,
        }
    return parts


def _usual(unit: Unit) -> dict[str, float | str]:
    """Return the usual tolerances as typed: lengths in whole thou where the build is in inches."""
    found: dict[str, float | str] = {}
    for name, field in ToleranceForm.base_fields.items():
        value = getattr(Tolerances(), name)
        if not isinstance(field, LengthField):
            found[name] = f"{value:g}"
        else:
            found[name] = round(value / MM_PER_THOU) * MM_PER_THOU if unit is Unit.INCH else value
    return found


def _likely(one: Likely) -> dict[str, Any]:
    return {"check": one.check, "share": f"{100 * one.holds:.1f} %", "width": round(200 * one.holds, 1)}


def _gains(page: BuildPage, many: Batch) -> dict[str, Any]:
    """Return the effect of each change on the tightest check of every kind, and on every check."""
    length = UNIT_MM[page.unit]
    asked = nudges(length, page.report.job)
    found = gains(many, asked)
    every = [(check, [_gain(one.gains[at], check, page.unit) for one in found]) for at, check in enumerate(many.checks)]
    tightest = {worst([c for c in many.checks if c.kind is kind]).label for kind in {c.kind for c in many.checks}}
    rows = [(check, gains) for check, gains in every if check.label in tightest]
    per = f"1 {BENCH_UNIT[page.unit]}" if page.unit is Unit.INCH else plain_mm_text(length)
    turned = [(one.step.words, _per(one, per), [gains[at] for _, gains in rows]) for at, one in enumerate(found)]
    return {
        "rows": rows,
        "tightest": [(check.label, "") for check, _ in rows],
        "turned": turned,
        "asked": [(words, asked_per) for words, asked_per, _ in turned],
        "every_worth": every,
        "by_check": [(check.label, "", gains) for check, gains in every],
    }


def _per(one: Gain, length: str) -> str:
    return {CAM_MOVED: "1° crank", ROCKERS_CHANGED: "0.1"}.get(one.step.lever.kind, length)


def _gain(gain: float | None, check: Check, unit: Unit) -> str:
    if gain is None:
        return "?"
    if abs(gain) < NOTHING:
        return "·"
    text = format_bench(abs(gain), unit) if check.kind.is_length else f"{abs(gain):.3f}"
    return ("−" if gain < 0 else "+") + text
