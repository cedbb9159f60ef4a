"""Cams on the shelf: cards as printed and lobes as measured, in the shop or available."""

from typing import Any

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from mockup.base.faults import Fault, FaultsError
from mockup.engine.cam import LiftAt, TableZero
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Side
from mockup.fit.cam_report import card_contradictions
from mockup.quantity.shown import bench_text, format_both
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from web.page.cam_forms import CardFields, card_of, pasted_or_sent, table_of
from web.shelf import services
from web.shelf.models import ShelfCam
from web.shelf_pages.shelf import UNITS
from web.shops.access import member_writes, person_of

MOST_CAMS = 500
OF_A_TABLE = tuple(f"{side}_{name}" for side in Side for name in ("table", "file"))
OF_A_CARD = tuple(f"{side}_{name}" for side in Side for name in ("lift", "duration_1", "duration_2", "duration_3"))


class ShelfCamForm(CardFields):
    """A cam for the shelf: its card, measured lobes, or both."""

    unit = forms.ChoiceField(choices=UNITS, label="Typed in")
    name = forms.CharField(max_length=60, label="Cam", help_text="as you would ask for it")
    had = forms.ChoiceField(choices=[("", "available"), ("yes", "in the shop")], required=False, label="It is")
    price = forms.CharField(max_length=40, required=False, label="Price")
    note = forms.CharField(max_length=200, required=False, label="Note")
    tables_at = forms.ChoiceField(
        choices=[(LiftAt.LOBE, "at the lobe"), (LiftAt.VALVE, "at the valve")], label="Lift measured"
    )
    tables_degrees = forms.ChoiceField(choices=[("crank", "crank degrees"), ("cam", "cam degrees")], label="Angles are")
    tables_zero = forms.ChoiceField(
        choices=[(TableZero.CENTRELINE, "midway at 0.050 in"), (TableZero.MAXIMUM, "maximum lift")], label="Middle is"
    )

    def __init__(self, data: Any = None, files: Any = None) -> None:
        asked = data.get("unit") if data else None
        super().__init__(data, files)
        self.add_card_fields()
        for side in Side:
            area = forms.Textarea(attrs={"rows": 4})
            label = f"{side.capitalize()} lobe: angle and lift, a line each"
            self.fields[f"{side}_table"] = forms.CharField(widget=area, required=False, label=label, max_length=60_000)
            self.fields[f"{side}_file"] = forms.FileField(label="or a CSV file", required=False, max_length=200)
        self.read_in(Unit(asked) if asked in list(Unit) else Unit.INCH)
        self.dress()

    @property
    def head(self) -> list[forms.BoundField]:
        """Return the fields about the cam as a thing."""
        return [self[name] for name in ("name", "unit", "had", "price", "note")]

    @property
    def intake(self) -> list[forms.BoundField]:
        """Return the fields of the intake's card."""
        return [field for field in super().intake if field.name not in OF_A_TABLE]

    @property
    def exhaust(self) -> list[forms.BoundField]:
        """Return the fields of the exhaust's card."""
        return [field for field in super().exhaust if field.name not in OF_A_TABLE]

    @property
    def tables(self) -> list[forms.BoundField]:
        """Return the fields of measured lobes."""
        return [self[name] for name in ("tables_at", "tables_degrees", "tables_zero", *OF_A_TABLE)]

    def clean(self) -> dict[str, Any]:
        """Make the cam; a fault is shown at its field."""
        found = super().clean() or {}
        if self.errors:
            return found
        tables = []
        for side in Side:
            name = f"{side}_table"
            file = found.get(f"{side}_file")
            if found.get(name, "").strip() or file:
                kinds = {kind: found[f"tables_{kind}"] for kind in ("at", "degrees", "zero")}
                try:
                    text = pasted_or_sent(found[name], file)
                    tables.append(table_of(text, side, self.read_as, **kinds)[0])
                except LengthError as error:
                    self.add_error(name, str(error))
                except FaultsError as error:
                    self.add_error(name, " ".join(fault.message for fault in error.faults))
        if not self.errors:
            try:
                self.cam = self._cam(found, tables)
            except FaultsError as error:
                for fault in error.faults:
                    self.add_error(fault.path if fault.path in self.fields else None, fault.message)
        return found

    def _cam(self, found: dict[str, Any], tables: list[Any]) -> Camshaft:
        by_card = any(found.get(name) is not None for name in OF_A_CARD)
        if not by_card and not tables:
            raise FaultsError([Fault("intake_lift", "Give its card, or paste a measured lobe below.")])
        if by_card:
            return Camshaft(name=found["name"], card=card_of(found), tables=tuple(tables))
        icl, ecl, lsa = found.get("icl_deg"), found.get("ecl_deg"), found.get("lsa_deg")
        if ecl is None and icl is not None and lsa is not None:
            ecl = 2 * lsa - icl
        return Camshaft(name=found["name"], tables=tuple(tables), icl_deg=icl, ecl_deg=ecl)


@member_writes
def cams(request: HttpRequest) -> HttpResponse:
    """Show the cams on the shelf; add or remove one."""
    form = ShelfCamForm()
    if request.method == "POST":
        if "off" in request.POST:
            services.take_off(_asked(request.POST["off"]))
            return redirect("cams")
        form = ShelfCamForm(request.POST, request.FILES)
        if form.is_valid():
            if ShelfCam.objects.filter(off_since=None).count() >= MOST_CAMS:
                form.add_error("name", f"There are {MOST_CAMS} cams on the shelf: remove one first.")
            else:
                services.put_cam_on(form.cam, person_of(request), **_noted(form.cleaned_data))
                return redirect("cams")
    shown = [_line(row) for row in ShelfCam.objects.filter(off_since=None)]
    context = {"cams": shown, "form": form}
    return render(request, "shelf_pages/cams.html", context, status=422 if form.errors else 200)


def _noted(found: dict[str, Any]) -> dict[str, Any]:
    return {"had": found["had"] == "yes", "price": found["price"], "note": found["note"]}


def _asked(key: str) -> ShelfCam:
    number = key.removeprefix("cam-")
    if not number.isdecimal() or len(number) > 18:
        raise Http404(key)
    return get_object_or_404(ShelfCam, pk=int(number))


def _line(row: ShelfCam) -> dict[str, Any]:
    """Return a cam in words: both sides, its centrelines, and the contradictions of its card."""
    cam = row.core()
    card = cam.card
    stands = ""
    if card:
        stands = f"LSA {card.lsa_deg:g}, ICL {card.icl_deg:g}"
    elif cam.icl_deg is not None or cam.ecl_deg is not None:
        placed = (("ICL", cam.icl_deg), ("ECL", cam.ecl_deg))
        stands = ", ".join(f"{what} {at:g}" for what, at in placed if at is not None)
    return {
        "row": row,
        "sides": [(str(side), _side(cam, side)) for side in Side],
        "stands": stands or "centreline not stated",
        "two": bool(card and card.two_cams),
        "contradictions": [
            f"{one.what}: {one.given_deg:g}° given, {one.computed_deg:.1f}° from the rest of the card"
            for one in (card_contradictions(card) if card else ())
        ],
    }


def _side(cam: Camshaft, side: Side) -> str:
    parts = []
    if cam.card:
        lobe = cam.card.lobe(side)
        spans = ", ".join(f"{one.deg:g}° above {bench_text(one.at_mm, Unit.INCH)}" for one in lobe.durations)
        parts.append(f"lobe {format_both(lobe.lift_mm, Unit.INCH)}; {spans}")
        if lobe.tdc_lift_mm is not None:
            parts.append(f"{bench_text(lobe.tdc_lift_mm, Unit.INCH)} at TDC")
    table = cam.table(side)
    if table:
        parts.append(f"measured, {len(table.angles_deg)} points at the {table.at}")
    return "; ".join(parts) or "nothing known"
