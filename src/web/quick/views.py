"""The quick check: a few numbers judged while they are typed, without a build.

Its address holds its fields.
"""

from typing import Any, ClassVar

from django import forms
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.engine.mockup import Clay, DialTurns, Lifters, Overlap, Springs
from mockup.engine.valves import Side
from mockup.plans.batch import Batch
from mockup.plans.lift_bound import lift_bound, lift_bound_words
from mockup.quantity.typed import LengthError, parse_piston_volume
from mockup.quantity.typed_gap import GapTyped
from mockup.quantity.value import Unit
from mockup.quick.block import QuickQuench, QuickRatio
from mockup.quick.sums import DialSum, GasketSum, LiftSum, PushrodSum, Sum
from mockup.quick.valve import Method, QuickCheck, Under
from mockup.words.report_text import DIAL_TURN_WORDS, OVERLAP_WORDS, TURNED_WORDS
from web.page.build_form import LIMIT_SETS, UNITS
from web.page.fields import (
    CoreFormMixin,
    CrankAngleField,
    DeckReadingField,
    GapField,
    LengthField,
    NumberField,
    UnitFormMixin,
)

LIFTERS = [
    (Lifters.NOT_STATED, "not stated"),
    (Lifters.BLOCKED, "blocked, or a checking lifter"),
    (Lifters.SOLID, "solid"),
    (Lifters.UNBLOCKED, "hydraulic, as it is"),
]
SPRINGS = [
    (Springs.NOT_STATED, "not stated"),
    (Springs.CHECKING, "light checking springs"),
    (Springs.RUNNING, "the springs it will run"),
]
TURNS = [("no", "not two full turns"), ("yes", "two full turns")]
CLAYS = [(Clay.MODELLING, "modelling clay"), (Clay.DOUGH, "soft dough"), (Clay.PUTTY, "bouncing putty")]


def _choice(label: str, choices: Any, initial: str) -> forms.TypedChoiceField:
    """Return a choice; left out, it takes its initial value."""
    return forms.TypedChoiceField(
        label=label, choices=choices, initial=initial, empty_value=None, coerce=type(initial), required=False
    )


class _Asked(CoreFormMixin, UnitFormMixin, forms.Form):
    """A form whose empty fields mean the usual value, or not known."""

    ORDER: ClassVar[tuple[str, ...]]
    limits = _choice("Judged by", LIMIT_SETS, LIMIT_SETS[0][0])
    unit = _choice("Plain numbers are", UNITS, Unit.INCH)

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        self.order_fields(self.ORDER)
        self.fields[self.ORDER[0]].widget.attrs["autofocus"] = True

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return the fields that are filled in; feelers are a middle and half their step."""
        gaps = {name: value for name, value in found.items() if isinstance(value, GapTyped)}
        halves = {f"{name.removesuffix('_mm')}_half_mm": gap.half_width_mm for name, gap in gaps.items()}
        found = found | {name: gap.mm for name, gap in gaps.items()} | halves
        return {name: value for name, value in found.items() if value is not None}


class QuickForm(_Asked):
    """The fields of a quick check; only the reading is required."""

    CORE: ClassVar[type[Any]] = QuickCheck
    read_mm = GapField(label="It read", example_mm=2.4384, help_text="feelers as goes 130 not 134")
    side = _choice("Valve", [(side, str(side)) for side in Side], Side.INTAKE)
    under = _choice("Gasket when it was read", [(one, str(one)) for one in Under], Under.UNKNOWN)
    stood_mm = LengthField(label="That gasket", required=False, help_text="free, where it was only snugged")
    final_mm = LengthField(label="The one it will run", required=False, help_text="compressed")
    method = _choice("Read with", [(one, str(one)) for one in Method], Method.CLAY)
    crank_deg = CrankAngleField(bdc_deg=180.0, label="At", required=False, help_text="of an indicator, as 9 ATDC")
    lifters = _choice("Lifters", LIFTERS, Lifters.NOT_STATED)
    springs = _choice("Springs", SPRINGS, Springs.NOT_STATED)
    two_turns = forms.TypedChoiceField(
        label="Crank turned",
        choices=TURNS,
        initial="no",
        empty_value=None,
        coerce=lambda text: text == "yes",
        required=False,
        help_text="by hand, for clay",
    )
    overlap = _choice("Overlap TDC told by", list(OVERLAP_WORDS.items()), Overlap.NOT_STATED)
    dial_turns = _choice("Dial’s turns counted", list(DIAL_TURN_WORDS.items()), DialTurns.NOT_STATED)
    turned_step_deg = forms.TypedChoiceField(
        label="Turned",
        choices=TURNED_WORDS,
        empty_value=None,
        coerce=float,
        required=False,
        help_text="for the smallest",
    )
    clay = _choice("Clay", CLAYS, Clay.MODELLING)
    ORDER: ClassVar[tuple[str, ...]] = (
        "read_mm",
        "side",
        "under",
        "stood_mm",
        "final_mm",
        "limits",
        "lifters",
        "springs",
        "two_turns",
        "method",
        "crank_deg",
        "overlap",
        "turned_step_deg",
        "dial_turns",
    )


class QuenchForm(_Asked):
    """Deck and gasket, and so the quench."""

    CORE: ClassVar[type[Any]] = QuickQuench
    deck_mm = DeckReadingField(label="Deck", help_text="as 11 down, 5 out, zero, goes 13 not 14 down")
    gasket_mm = LengthField(label="Gasket, compressed")
    ORDER: ClassVar[tuple[str, ...]] = ("deck_mm", "gasket_mm", "limits")


class RatioForm(QuenchForm):
    """The five volumes of a compression ratio."""

    CORE: ClassVar[type[Any]] = QuickRatio
    bore_mm = LengthField(label="Bore", big=True)
    stroke_mm = LengthField(label="Stroke", big=True)
    chamber_cc = NumberField(label="Chamber, cc")
    piston_cc = forms.CharField(label="Piston", max_length=40, help_text="as dish 5.2, dome 11, flat")
    gasket_bore_mm = LengthField(
        label="Gasket bore", big=True, required=False, help_text="empty: the cylinder’s and a little"
    )
    ORDER: ClassVar[tuple[str, ...]] = (
        "bore_mm",
        "stroke_mm",
        "chamber_cc",
        "piston_cc",
        "deck_mm",
        "gasket_mm",
        "gasket_bore_mm",
        "limits",
    )

    def clean_piston_cc(self) -> float:
        """Return the piston's volume, positive where it adds volume [cm3]."""
        try:
            return parse_piston_volume(self.cleaned_data["piston_cc"])
        except LengthError as error:
            raise forms.ValidationError(str(error)) from error


class _SumForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """A sum; nothing is judged."""

    unit = _choice("Plain numbers are", UNITS, Unit.INCH)

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        first = next(name for name in self.fields if name != "unit")
        self.order_fields([first])
        self.fields[first].widget.attrs["autofocus"] = True

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return the fields that are filled in."""
        return {name: value for name, value in found.items() if value is not None}


class PushrodForm(_SumForm):
    """A checking pushrod's turns, and the preload."""

    CORE: ClassVar[type[Any]] = PushrodSum
    closed_mm = LengthField(label="Checker, closed", big=True)
    turns = NumberField(label="Turns out", help_text="as 11.5")
    pitch_mm = LengthField(label="Pitch of its thread", required=False, help_text="a turn; empty: 50 thou")
    preload_mm = LengthField(label="Preload aimed at", required=False, help_text="if any")


class GasketForm(_SumForm):
    """A new gasket that was only snugged."""

    CORE: ClassVar[type[Any]] = GasketSum
    free_mm = LengthField(label="Gasket, free")
    compressed_mm = LengthField(label="Gasket, compressed")
    read_mm = LengthField(label="It read", required=False, help_text="over that gasket, if anything")


class LiftForm(_SumForm):
    """A lobe's lift and the rockers' ratio."""

    CORE: ClassVar[type[Any]] = LiftSum
    lobe_mm = LengthField(label="Lift of the lobe", big=True, example_mm=8.5852)
    ratio = NumberField(label="Rocker ratio", help_text="as 1.6; 1 without rockers")
    lash_mm = LengthField(label="Lash", required=False, help_text="at the valve, if any")


class DialForm(_SumForm):
    """A dial that went past its turn, or backwards."""

    CORE: ClassVar[type[Any]] = DialSum
    shown = NumberField(label="The needle stopped at")
    way = forms.ChoiceField(
        label="It went", choices=[("back", "backwards"), ("on", "forwards")], initial="back", required=False
    )
    turns = forms.IntegerField(label="Whole turns before", required=False, min_value=0, max_value=100)
    divisions = forms.IntegerField(
        label="Divisions a turn", required=False, min_value=2, max_value=1000, help_text="empty: 100"
    )

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return which way it went, as core data."""
        return super().for_core(found | {"backwards": found.pop("way", "") != "on"})


SORTS: dict[str, tuple[str, type[Any]]] = {
    "valve": ("A valve", QuickForm),
    "quench": ("Deck and quench", QuenchForm),
    "ratio": ("Compression ratio", RatioForm),
    "pushrod": ("Pushrod", PushrodForm),
    "gasket": ("Free less compressed", GasketForm),
    "lift": ("Lift at the valve", LiftForm),
    "dial": ("Dial gone backwards", DialForm),
}
"""The quick checks: name in the address, words, form."""
FOLDED = ("method", "crank_deg", "overlap", "turned_step_deg", "dial_turns", "clay", "unit")
"""Fields with a usual answer, folded away."""


def quick_form(asked: QueryDict, sort: str = "valve") -> Any:
    """Return the form filled from an address; empty for an address without its fields."""
    unit, made = asked.get("unit", Unit.INCH), SORTS.get(sort, SORTS["valve"])[1]
    own = set(made.base_fields) - {"limits", "unit"}
    return made(Unit(unit) if unit in list(Unit) else Unit.INCH, asked if own & set(asked) else None)


@require_GET
def quick(request: HttpRequest) -> HttpResponse:
    """Show a few fields and their result."""
    sort = request.GET.get("what", "valve")
    sort = sort if sort in SORTS else "valve"
    form = quick_form(request.GET, sort)
    shown: dict[str, Any] = {"form": form, "sort": sort, "sorts": {key: words for key, (words, _) in SORTS.items()}}
    shown |= {"first": [one for one in form if one.name not in FOLDED], "folded": [f for f in form if f.name in FOLDED]}
    if form.is_bound and form.is_valid():
        shown |= _answered(form.item, request.GET.urlencode())
    elif form.is_bound:
        shown |= _said(form)
    return render(request, "quick/quick.html", shown)


def _answered(item: Any, query: str) -> dict[str, Any]:
    """Return the result of a sum, or a check's judged figure and how to keep it."""
    if isinstance(item, Sum):
        return {"lines": item.lines()}
    report = item.report()
    bound = lift_bound(Batch(report))
    return {
        "more_lift": lift_bound_words(bound, item.unit) if bound and bound.more_mm else "",
        "check": item.answer(report),
        "unit": item.unit,
        "supposed": item.supposed(),
        "questions": report.questions,
        "query": query,
    }


def _said(form: Any) -> dict[str, Any]:
    """Return what is still to be typed, and what is wrong, by field label."""
    wanted, wrong = [], []
    for name, errors in form.errors.as_data().items():
        label = form[name].label if name in form.fields else ""
        if any(error.code == "required" for error in errors):
            wanted.append(label)
        else:
            wrong += [(label, message) for error in errors for message in error.messages]
    return {"wanted": wanted, "wrong": wrong}
