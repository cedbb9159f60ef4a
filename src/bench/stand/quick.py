"""The quick check: one reading of one valve judged while it is typed, without a build. Its address holds its fields."""

from typing import Any, ClassVar

from django import forms
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render
from django.views.decorators.http import require_GET

from bench.page.build_form import SHEETS, UNITS
from bench.page.fields import CoreFormMixin, CrankAngleField, LengthField, UnitFormMixin
from mockup.engine.mockup import Clay, Lifters, Springs
from mockup.engine.valves import Side
from mockup.quantity.value import Unit
from mockup.quick import Method, QuickCheck, Under

LIFTERS = [
    (Lifters.BLOCKED, "blocked, or a checking lifter"),
    (Lifters.SOLID, "solid"),
    (Lifters.UNBLOCKED, "hydraulic, as it is"),
]
SPRINGS = [(Springs.CHECKING, "light checking springs"), (Springs.RUNNING, "the springs it will run")]
CLAYS = [(Clay.MODELLING, "modelling clay"), (Clay.DOUGH, "soft dough"), (Clay.PUTTY, "bouncing putty")]


def _choice(label: str, choices: Any, initial: str) -> forms.TypedChoiceField:
    """One of some words; left out, it is what it begins as."""
    return forms.TypedChoiceField(
        label=label, choices=choices, initial=initial, empty_value=None, coerce=type(initial), required=False
    )


class QuickForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """What a quick check is made of; only the reading is asked for, the rest is as usual or not known."""

    CORE: ClassVar[type[Any]] = QuickCheck
    read_mm = LengthField(label="It read", example_mm=2.4384)
    side = _choice("Valve", [(side, str(side)) for side in Side], Side.INTAKE)
    under = _choice("Gasket when it was read", [(one, str(one)) for one in Under], Under.UNKNOWN)
    stood_mm = LengthField(label="That gasket", required=False, help_text="free, where it was only snugged")
    final_mm = LengthField(label="The one it will run", required=False, help_text="compressed")
    sheet = _choice("Judged by", SHEETS, SHEETS[0][0])
    method = _choice("Read with", [(one, str(one)) for one in Method], Method.CLAY)
    crank_deg = CrankAngleField(bdc_deg=180.0, label="At", required=False, help_text="of an indicator, as 9 ATDC")
    lifters = _choice("Lifters", LIFTERS, Lifters.BLOCKED)
    springs = _choice("Springs", SPRINGS, Springs.CHECKING)
    clay = _choice("Clay", CLAYS, Clay.MODELLING)
    unit = _choice("Plain numbers are", UNITS, Unit.INCH)

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        self.fields["read_mm"].widget.attrs["autofocus"] = True

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """What was left out is as usual, or not known."""
        return {name: value for name, value in found.items() if value is not None}


def quick_form(asked: QueryDict) -> QuickForm:
    """The form as an address fills it; empty for an address that holds nothing."""
    unit = asked.get("unit", Unit.INCH)
    return QuickForm(Unit(unit) if unit in list(Unit) else Unit.INCH, asked if "read_mm" in asked else None)


@require_GET
def quick(request: HttpRequest) -> HttpResponse:
    """One reading, and what it says."""
    form = quick_form(request.GET)
    shown: dict[str, Any] = {"form": form, "address": request.get_full_path()}
    if form.is_bound and form.is_valid():
        check: QuickCheck = form.item
        report = check.report()
        answer = check.answer(report)
        shown |= {
            "check": answer,
            "unit": check.unit,
            "asked": check,
            "supposed": check.supposed(),
            "questions": report.questions,
            "query": request.GET.urlencode(),
        }
    return render(request, "stand/quick.html", shown)
