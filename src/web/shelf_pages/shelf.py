"""The page of the shelf: gaskets, shims, pushrods and instruments of the shop."""

from datetime import date
from typing import Any, ClassVar

from django import forms
from django.db import models
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from mockup.base.faults import Fault, refuse
from mockup.engine.gasket import THICKEST_MM, FinalGasket
from mockup.engine.pushrods import LENGTHS_MM
from mockup.limits.limit_set import LimitName
from mockup.limits.schools import READY_MADE
from mockup.quantity.shown import mm_range
from mockup.quantity.value import Unit
from mockup.readings.instruments import (
    BRIDGE,
    CALIPER,
    DEFAULT_INSTRUMENTS,
    DEPTH_ROD,
    FEELERS,
    INDICATOR,
    Calibration,
    Instrument,
)
from mockup.words.report_text import engine_line, limit_value_text
from web.page.fields import CoreFormMixin, LengthField, UnitFormMixin
from web.shelf import services
from web.shelf.models import (
    ShelfCam,
    ShelfEngine,
    ShelfGasket,
    ShelfInstrument,
    ShelfLimits,
    ShelfPushrod,
    ShelfShim,
    Shelved,
)
from web.shops.access import member_writes, person_of

LONGEST_SEARCH = 60
UNITS = [(Unit.INCH, "inches and thou"), (Unit.MILLIMETRE, "millimetres")]
USES = [(key, DEFAULT_INSTRUMENTS[key].name) for key in (BRIDGE, INDICATOR, DEPTH_ROD, FEELERS, CALIPER)]


class OnTheShelf(CoreFormMixin, UnitFormMixin, forms.Form):
    """What the forms of the shelf share: the unit their lengths are typed in."""

    MODEL: ClassVar[type[Shelved]]
    unit = forms.ChoiceField(choices=UNITS, label="Typed in")

    def __init__(self, data: Any = None) -> None:
        asked = data.get("unit") if data else None
        super().__init__(
            Unit(asked) if asked in list(Unit) else Unit.INCH, data, auto_id=f"{self.MODEL.__name__.lower()}-%s"
        )

    def figures(self) -> dict[str, Any]:
        """Return the cleaned fields of the thing itself."""
        return {name: value for name, value in self.cleaned_data.items() if name != "unit"}


def _gasket(*, free_mm: float | None, **figures: Any) -> FinalGasket:
    del figures["unit"]
    gasket = FinalGasket(**figures)
    if free_mm is not None and not gasket.compressed_mm <= free_mm <= THICKEST_MM:
        refuse([Fault("free_mm", "Free, it is at least as thick as compressed, and up to 6 mm (0.236 in).")])
    return gasket


class ShelfGasketForm(OnTheShelf):
    """A gasket for the shelf."""

    MODEL = ShelfGasket
    CORE: ClassVar[Any] = staticmethod(_gasket)
    name = forms.CharField(max_length=60, label="Gasket")
    bore_mm = LengthField(big=True, label="Bore")
    compressed_mm = LengthField(label="Compressed")
    free_mm = LengthField(label="Free, if known", required=False)


def _shim(*, thickness_mm: float, stock: int, unit: str) -> tuple[float, int]:  # noqa: ARG001, passed on by the form
    refuse([] if 0.01 <= thickness_mm <= 5 else [Fault("thickness_mm", "A shim of 0.01 to 5 mm (0.0004 to 0.197 in).")])
    return thickness_mm, stock


class ShimForm(OnTheShelf):
    """Base shims of one thickness for the shelf."""

    MODEL = ShelfShim
    CORE: ClassVar[Any] = staticmethod(_shim)
    thickness_mm = LengthField(label="Shim")
    stock = forms.IntegerField(label="How many", min_value=1, max_value=500)


def _pushrod(*, length_mm: float, stock: int, unit: str) -> tuple[float, int]:  # noqa: ARG001, passed on by the form
    low, high = LENGTHS_MM
    fits = low <= length_mm <= high
    refuse([] if fits else [Fault("length_mm", f"A pushrod of {mm_range(low, high)}.")])
    return length_mm, stock


class PushrodForm(OnTheShelf):
    """Pushrods of one length for the shelf."""

    MODEL = ShelfPushrod
    CORE: ClassVar[Any] = staticmethod(_pushrod)
    length_mm = LengthField(big=True, label="Length", example_mm=187.96)
    stock = forms.IntegerField(label="How many", min_value=1, max_value=500)


def _instrument(*, use: str, unit: str, **figures: Any) -> Instrument:  # noqa: ARG001, passed on by the form
    usual = DEFAULT_INSTRUMENTS[use].repeats_mm
    return Instrument(
        key="", **figures | {"repeats_mm": usual if figures["repeats_mm"] is None else figures["repeats_mm"]}
    )


class InstrumentForm(OnTheShelf):
    """An instrument of the shop's own."""

    MODEL = ShelfInstrument
    CORE: ClassVar[Any] = staticmethod(_instrument)
    name = forms.CharField(max_length=60, label="Instrument")
    use = forms.ChoiceField(choices=USES, label="Used as")
    resolution_mm = LengthField(fine=True, label="Read to", help_text="its smallest step")
    accuracy_mm = LengthField(fine=True, label="Accuracy, ±", help_text="as its certificate or maker says")
    repeats_mm = LengthField(
        fine=True,
        label="Repeats within",
        required=False,
        help_text="standard deviation of repeated readings; empty: the usual",
    )


def _calibration(*, on: date, until: date, by_whom: str) -> Calibration:
    return Calibration(on=on.isoformat(), until=until.isoformat(), by=by_whom)


class CalibrationForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """One calibration of an instrument."""

    CORE: ClassVar[Any] = staticmethod(_calibration)
    on = forms.DateField(label="Calibrated on", widget=forms.DateInput(attrs={"type": "date"}))
    until = forms.DateField(label="Holds until", widget=forms.DateInput(attrs={"type": "date"}))
    by_whom = forms.CharField(max_length=60, label="By whom", required=False)


FORMS: dict[str, type[OnTheShelf]] = {
    "gasket": ShelfGasketForm,
    "shim": ShimForm,
    "pushrod": PushrodForm,
    "instrument": InstrumentForm,
}


@member_writes
def shelf(request: HttpRequest) -> HttpResponse:
    """Show what is on the shelf; add or remove something."""
    forms: dict[str, OnTheShelf] = {name: form() for name, form in FORMS.items()}
    calibration = CalibrationForm(Unit(person_of(request).unit))
    if request.method == "POST":
        if "off" in request.POST:
            services.take_off(_asked(request.POST["off"]))
            return redirect("shelf")
        name = next((name for name in FORMS if name in request.POST), "")
        if "calibrated" in request.POST and not name:
            calibration, done = _calibrate(request)
        else:
            forms[name or "gasket"] = form = FORMS[name or "gasket"](request.POST)
            done = _put_on(request, form)
        if done:
            return redirect("shelf")
    wrong = bool(calibration.errors) or any(form.errors for form in forms.values())
    context = _parts(request) | {"calibration": calibration, "forms": forms}
    return render(request, "shelf_pages/shelf.html", context, status=422 if wrong else 200)


def _calibrate(request: HttpRequest) -> tuple[CalibrationForm, bool]:
    """Write a calibration down; returns its form, and whether it was written."""
    form = CalibrationForm(Unit(person_of(request).unit), request.POST)
    instrument = _asked(f"instrument-{request.POST['calibrated']}")
    if not (form.is_valid() and isinstance(instrument, ShelfInstrument)):
        return form, False
    services.calibrate(instrument, form.item, person_of(request))
    return form, True


def _parts(request: HttpRequest) -> dict[str, Any]:
    """Return what is on the shelf, of the names that are searched for."""
    unit = Unit(person_of(request).unit)
    asked = request.GET.get("q", "").strip()[:LONGEST_SEARCH]
    return {
        "asked": asked,
        "gaskets": ShelfGasket.objects.filter(off_since=None, name__icontains=asked),
        "engines": [_engine(row) for row in ShelfEngine.objects.filter(off_since=None, name__icontains=asked)],
        "limits": [_limits_row(row, unit) for row in ShelfLimits.objects.filter(off_since=None, name__icontains=asked)],
        "shims": [(row.thickness_mm, row) for row in ShelfShim.objects.filter(off_since=None)],
        "pushrods": [(row.length_mm, row) for row in ShelfPushrod.objects.filter(off_since=None)],
        "instruments": _instruments(asked),
        "calibrating": request.POST.get("calibrated", ""),
        "cams": ShelfCam.objects.filter(off_since=None).count(),
        "built_in": DEFAULT_INSTRUMENTS.values(),
        "inch": Unit.INCH,
    }


def _engine(row: ShelfEngine) -> dict[str, Any]:
    return {"row": row, "line": engine_line(row.core(), Unit(row.unit))}


def _limits_row(row: ShelfLimits, unit: Unit) -> dict[str, Any]:
    limits = READY_MADE[row.base]
    others = [
        f"{name.label} {limit_value_text(value, name, unit)}"
        for name, value in ((LimitName.named(key), value) for key, value in row.edits.items())
    ]
    return {"row": row, "base": limits.title, "others": others}


def _instruments(asked: str) -> list[dict[str, Any]]:
    """Return the shop's instruments with their last calibrations, expired or not."""
    today = timezone.localdate()
    rows = ShelfInstrument.objects.filter(off_since=None, name__icontains=asked).prefetch_related("calibrations")
    found = []
    for row in rows:
        last = max(row.calibrations.all(), key=lambda one: (one.until, one.on), default=None)
        found.append({"row": row, "last": last, "overdue": last is not None and last.until < today})
    return found


def _put_on(request: HttpRequest, form: OnTheShelf) -> bool:
    """Put what was entered on the shelf; returns whether it was."""
    if not form.is_valid():
        return False
    by = person_of(request)
    if form.MODEL is ShelfInstrument:
        figures = form.figures()
        if figures["repeats_mm"] is None:
            figures["repeats_mm"] = DEFAULT_INSTRUMENTS[figures["use"]].repeats_mm
        services.add_instrument(by, **figures)
    else:
        services.put_on(form.MODEL(**form.figures()), by)
    return True


def _asked(key: str) -> Shelved:
    name, _, number = key.partition("-")
    kinds: dict[str, type[models.Model]] = {name: form.MODEL for name, form in FORMS.items()}
    kinds |= {"engine": ShelfEngine, "limits": ShelfLimits}
    if name not in kinds or not number.isdecimal() or len(number) > 18:
        raise Http404(key)
    found = get_object_or_404(kinds[name], pk=int(number))
    assert isinstance(found, Shelved)
    return found
