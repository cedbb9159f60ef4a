"""The form of a build: its engine as designed and how its book is kept. Begins builds and changes them."""

from typing import Any

from django import forms

from bench.builds.models import Build
from bench.page.fields import LengthField, UnitFormMixin
from mockup.engine.block import DIMENSIONS_KNOWN, MOST_CYLINDERS, Engine, Layout, Numbering, known_to_name
from mockup.engine.valves import Relief, ValveRow
from mockup.faults import FaultsError
from mockup.limits.sheets import READY_MADE
from mockup.quantity.typed import LengthError, parse_firing_order
from mockup.quantity.value import DeckSign, Unit

UNITS = [(Unit.INCH, "inches and thou"), (Unit.MILLIMETRE, "millimetres")]
SIGNS = [
    (DeckSign.DOWN_POSITIVE, "down is +"),
    (DeckSign.OUT_POSITIVE, "out is +"),
]
LAYOUTS = [(Layout.INLINE, "inline"), (Layout.VEE, "vee"), (Layout.FLAT, "flat")]
NUMBERINGS = [(Numbering.ALTERNATE, "odd and even banks"), (Numbering.BY_BANK, "bank by bank")]
RELIEFS = [(Relief.PARALLEL, "parallel relief"), (Relief.FLAT, "flat crown")]
SHEETS = [(sheet.key, sheet.title) for sheet in READY_MADE.values()]


def _angle(label: str) -> forms.FloatField:
    return forms.FloatField(label=label, initial=0, required=False)


def _count(label: str) -> forms.IntegerField:
    return forms.IntegerField(label=label, initial=1)


class BuildForm(UnitFormMixin, forms.Form):
    """All of a build's own fields. Lengths are read in the unit chosen in the same form."""

    name = forms.CharField(max_length=60, label="Name")
    subtitle = forms.CharField(max_length=59, label="What for", required=False)
    unit = forms.ChoiceField(choices=UNITS, label="Kept in")
    deck_sign = forms.ChoiceField(choices=SIGNS, label="Deck signs")
    sheet = forms.ChoiceField(choices=SHEETS, label="Margin sheet")
    layout = forms.ChoiceField(choices=LAYOUTS, label="Layout")
    cylinders = forms.IntegerField(label="Cylinders", min_value=1, max_value=MOST_CYLINDERS)
    numbering = forms.ChoiceField(choices=NUMBERINGS, label="Numbering")
    bore_mm = LengthField(big=True, label="Bore")
    stroke_mm = LengthField(big=True, label="Stroke")
    rod_length_mm = LengthField(big=True, label="Rod length")
    bore_known_to_mm = LengthField(
        fine=True, label="Bore known to, ±", required=False, help_text="empty: the usual, 0.02 mm (0.0008 in)"
    )
    stroke_known_to_mm = LengthField(
        fine=True, label="Stroke known to, ±", required=False, help_text="empty: the usual, 0.02 mm (0.0008 in)"
    )
    rod_length_known_to_mm = LengthField(
        fine=True, label="Rod known to, ±", required=False, help_text="empty: the same"
    )
    pin_offset_mm = LengthField(signed=True, label="Pin offset, + to the thrust side", required=False)
    rocker_ratio = forms.FloatField(
        label="Rocker ratio", initial=1, help_text="1 where a follower acts straight on the valve"
    )
    firing_order = forms.CharField(
        max_length=60, label="Firing order", required=False, help_text="as 1-5-3-6-2-4, if known"
    )
    bore_spacing_mm = LengthField(
        big=True, label="Bore to bore", required=False, help_text="if known; for the deck’s slope"
    )
    separate_barrels = forms.TypedChoiceField(
        choices=[("", "one deck a bank"), ("yes", "separate barrels on base shims")],
        coerce=lambda text: text == "yes",
        label="Barrels",
        required=False,
    )
    pistons_reversed = forms.TypedChoiceField(
        choices=[("", "the right way round"), ("yes", "reversed, as it will run")],
        coerce=lambda text: text == "yes",
        label="Pistons",
        required=False,
        help_text="turned about on purpose; a mistake belongs to the mock-up",
    )
    intake_count = _count("Valves a cylinder")
    intake_angle_deg = _angle("Angle to the bore, °")
    intake_cant_deg = _angle("Cant across it, °")
    intake_relief = forms.ChoiceField(choices=RELIEFS, label="Faces")
    intake_diameter_mm = LengthField(big=True, label="Head diameter", required=False, help_text="for the drawing")
    exhaust_count = _count("Valves a cylinder")
    exhaust_angle_deg = _angle("Angle to the bore, °")
    exhaust_cant_deg = _angle("Cant across it, °")
    exhaust_relief = forms.ChoiceField(choices=RELIEFS, label="Faces")
    exhaust_diameter_mm = LengthField(big=True, label="Head diameter", required=False, help_text="for the drawing")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        asked = str(self.data.get("unit") or self.initial.get("unit") or Unit.INCH)
        self.read_in(Unit(asked) if asked in list(Unit) else Unit.INCH)
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Hold the whole against the core: an engine that cannot turn is refused at the field to blame."""
        found = super().clean() or {}
        for name in (
            "pin_offset_mm",
            "bore_spacing_mm",
            "intake_diameter_mm",
            "exhaust_diameter_mm",
            *_ANGLES,
            *_KNOWN,
        ):
            found[name] = found.get(name) or 0.0
        for name in ("separate_barrels", "pistons_reversed"):
            found[name] = bool(found.get(name))
        if not self.errors:
            try:
                _engine(found)
            except LengthError as error:
                self.add_error("firing_order", str(error))
            except FaultsError as error:
                self.show_faults(error)
        return found

    def show_faults(self, error: FaultsError) -> None:
        """Put the core's faults beside the fields they belong to."""
        for fault in error.faults:
            name = fault.path.replace(".", "_")
            self.add_error(name if name in self.fields else None, fault.message)


_KNOWN = tuple(map(known_to_name, DIMENSIONS_KNOWN))
_ANGLES = tuple(f"{side}_{angle}_deg" for side in ("intake", "exhaust") for angle in ("angle", "cant"))
ENGINE_FIELDS = (
    "cylinders", "bore_mm", "stroke_mm", "rod_length_mm", "pin_offset_mm", "rocker_ratio", "bore_spacing_mm",
    "separate_barrels", "pistons_reversed", *_KNOWN,
)  # fmt: skip


def _engine(found: dict[str, Any]) -> Engine:
    def row(side: str) -> ValveRow:
        return ValveRow(
            count=found[f"{side}_count"],
            angle_deg=found[f"{side}_angle_deg"],
            cant_deg=found[f"{side}_cant_deg"],
            relief=Relief(found[f"{side}_relief"]),
            diameter_mm=found[f"{side}_diameter_mm"],
        )

    kept = {name: found[name] for name in ENGINE_FIELDS}
    order = parse_firing_order(found["firing_order"])
    return Engine(
        layout=Layout(found["layout"]),
        numbering=Numbering(found["numbering"]),
        intake=row("intake"),
        exhaust=row("exhaust"),
        firing_order=order,
        **kept,
    )


def initial_of(build: Build) -> dict[str, Any]:
    """What the form shows of a build."""
    shown = {name: getattr(build, name) for name in BuildForm.base_fields}
    chosen = {name: "yes" if shown[name] else "" for name in ("separate_barrels", "pistons_reversed")}
    optional = ("bore_spacing_mm", "intake_diameter_mm", "exhaust_diameter_mm", *_KNOWN)
    return shown | {name: shown[name] or "" for name in optional} | chosen
