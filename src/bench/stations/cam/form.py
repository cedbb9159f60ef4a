"""Forms of the cam: its card, a measured lobe pasted in, one pair of wheel angles, the steps it can be moved by."""

from typing import Any, ClassVar

from django import forms

from bench.builds.kinds import CamSteps
from bench.page.fields import CoreFormMixin, CrankAngleField, DegreesField, LengthField, UnitFormMixin
from mockup.engine.cam import CamCard, Duration, Events, LiftAt, LobeCard, LobeTable, TableZero
from mockup.engine.valves import Side
from mockup.faults import Fault, FaultsError, refuse
from mockup.motion.uncertain import refuse_impossible
from mockup.quantity.pasted import Pasted, parse_pasted
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from mockup.readings.cam_timing import DegreeReading

SIDES = [(Side.INTAKE, "intake"), (Side.EXHAUST, "exhaust")]


def _durations(found: dict[str, Any], side: str) -> tuple[Duration, ...]:
    pairs = [(found.get(f"{side}_duration_{at}"), found.get(f"{side}_at_{at}")) for at in (1, 2, 3)]
    refuse(
        Fault(f"{side}_at_{at}", "A duration and the lift it is checked at come together.")
        for at, (degrees, lift) in enumerate(pairs, start=1)
        if (degrees is None) != (lift is None)
    )
    return tuple(Duration(degrees, lift) for degrees, lift in pairs if degrees is not None and lift is not None)


def _card(*, unit: str = "", **found: Any) -> CamCard:
    del unit
    lobes = {}
    for side in ("intake", "exhaust"):
        try:
            lobes[side] = LobeCard(
                lift_mm=found[f"{side}_lift"],
                durations=_durations(found, side),
                tdc_lift_mm=found.get(f"{side}_tdc_lift"),
            )
            refuse_impossible(lobes[side])
        except FaultsError as error:
            names = {"lift_mm": f"{side}_lift", "durations": f"{side}_duration_1", "tdc_lift_mm": f"{side}_tdc_lift"}
            raise FaultsError(_renamed(fault, side, names) for fault in error.faults) from error
    lsa, icl = found["lsa_deg"], found.get("icl_deg")
    if icl is None:
        if found.get("advance_deg") is None:
            raise FaultsError([Fault("icl_deg", "Give the intake centreline, or how far the cam is in advance.")])
        icl = lsa - found["advance_deg"]
    return CamCard(
        **lobes,
        icl_deg=icl,
        lsa_deg=lsa,
        intake_lash_mm=found.get("intake_lash_mm") or 0.0,
        exhaust_lash_mm=found.get("exhaust_lash_mm") or 0.0,
        two_cams=found["two_cams"] == "yes",
        events=_events(found),
    )


def _renamed(fault: Fault, side: str, names: dict[str, str]) -> Fault:
    parts = fault.path.split(".")
    if len(parts) == 3:
        what = "duration" if parts[2] == "deg" else "at"
        return Fault(f"{side}_{what}_{int(parts[1]) + 1}", fault.message)
    return Fault(names.get(fault.path, fault.path), fault.message)


def _events(found: dict[str, Any]) -> Events | None:
    names = ("intake_opens_deg", "intake_closes_deg", "exhaust_opens_deg", "exhaust_closes_deg")
    given = {name: found.get(name) for name in names}
    if all(value is None for value in given.values()):
        return None
    refuse(Fault(name, "Give all four events, or none.") for name, value in given.items() if value is None)
    try:
        return Events(at_mm=found.get("events_at") or 0.0, **given)  # type: ignore[arg-type]
    except FaultsError as error:
        called = {"at_mm": "events_at"}
        raise FaultsError(Fault(called.get(fault.path, fault.path), fault.message) for fault in error.faults) from error


class CardForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The cam card, both lobes."""

    CORE: ClassVar[Any] = staticmethod(_card)
    lsa_deg = DegreesField(label="Lobe separation, cam °")
    icl_deg = DegreesField(label="Intake centreline, ° ATDC", required=False, help_text="or the advance instead")
    advance_deg = forms.FloatField(label="Ground in advance, °", required=False)
    two_cams = forms.ChoiceField(
        choices=[("", "one cam"), ("yes", "a cam for each side")], required=False, label="Cams"
    )

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        for side in ("intake", "exhaust"):
            self.fields[f"{side}_lift"] = LengthField(label="Lobe lift")
            for at in (1, 2, 3):
                self.fields[f"{side}_duration_{at}"] = DegreesField(label=f"Duration {at}, crank °", required=at == 1)
                self.fields[f"{side}_at_{at}"] = LengthField(label="above a lift of", required=at == 1)
            self.fields[f"{side}_tdc_lift"] = LengthField(
                label="Lobe lift at TDC", required=False, help_text="if the card gives it: it tells much"
            )
            self.fields[f"{side}_lash_mm"] = LengthField(label="Lash at the valve", required=False)
            bdc = 180.0 if side == "intake" else -180.0
            for what in ("opens", "closes"):
                self.fields[f"{side}_{what}_deg"] = CrankAngleField(
                    label=what.capitalize(), required=False, bdc_deg=bdc
                )
        self.fields["events_at"] = LengthField(
            label="Events given at", required=False, help_text="if the card gives any"
        )
        self.read_in(unit)
        self.dress()

    @property
    def common(self) -> list[forms.BoundField]:
        """The fields that are of the whole cam."""
        names = ("lsa_deg", "icl_deg", "advance_deg", "two_cams", "events_at")
        return [self[name] for name in names]

    @property
    def intake(self) -> list[forms.BoundField]:
        """The intake's fields."""
        return [self[name] for name in self.fields if name.startswith("intake_")]

    @property
    def exhaust(self) -> list[forms.BoundField]:
        """The exhaust's fields."""
        return [self[name] for name in self.fields if name.startswith("exhaust_")]


def initial_card(card: CamCard | None) -> dict[str, Any]:
    """What the card's form shows of a card."""
    if card is None:
        return {}
    shown: dict[str, Any] = {
        "lsa_deg": card.lsa_deg,
        "icl_deg": card.icl_deg,
        "two_cams": "yes" if card.two_cams else "",
    }
    for side in Side:
        lobe = card.lobe(side)
        shown[f"{side}_lift"] = lobe.lift_mm
        shown[f"{side}_tdc_lift"] = lobe.tdc_lift_mm
        shown[f"{side}_lash_mm"] = card.lash_mm(side) or None
        for at, duration in enumerate(lobe.durations, start=1):
            shown |= {f"{side}_duration_{at}": duration.deg, f"{side}_at_{at}": duration.at_mm}
        if card.events:
            shown["events_at"] = card.events.at_mm
            for what in ("opens", "closes"):
                shown[f"{side}_{what}_deg"] = getattr(card.events, f"{side}_{what}_deg")
    return shown


class TableForm(UnitFormMixin, forms.Form):
    """A measured lobe: pasted from a spreadsheet, typed, or read from a CSV file."""

    side = forms.ChoiceField(choices=SIDES, label="Of the")
    at = forms.ChoiceField(
        choices=[(LiftAt.LOBE, "at the lobe"), (LiftAt.VALVE, "at the valve")], label="Lift measured"
    )
    degrees = forms.ChoiceField(choices=[("crank", "crank degrees"), ("cam", "cam degrees")], label="Angles are")
    zero = forms.ChoiceField(
        choices=[(TableZero.CENTRELINE, "midway at 0.050 in"), (TableZero.MAXIMUM, "maximum lift")], label="Middle is"
    )
    table = forms.CharField(
        widget=forms.Textarea(attrs={"rows": 7}), label="Angle and lift, a line each", required=False, max_length=60_000
    )
    file = forms.FileField(label="or a CSV file", required=False, max_length=200)

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.unit = unit
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Read the table and hold it against the core."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.pasted = self._pasted(found)
                double = 2.0 if found["degrees"] == "cam" else 1.0
                self.item = LobeTable(
                    side=Side(found["side"]),
                    angles_deg=tuple(double * angle for angle in self.pasted.angles),
                    lifts_mm=self.pasted.lifts_mm,
                    at=LiftAt(found["at"]),
                    zero=TableZero(found["zero"]),
                )
            except LengthError as error:
                self.add_error("table", str(error))
            except FaultsError as error:
                self.add_error("table", " ".join(fault.message for fault in error.faults))
        return found

    def _pasted(self, found: dict[str, Any]) -> Pasted:
        text = found["table"]
        if not text.strip() and found.get("file"):
            try:
                text = str(found["file"].read(120_000), "utf-8-sig")
            except UnicodeDecodeError:
                raise LengthError("The file is not text in UTF-8.") from None
        return parse_pasted(text, self.unit)


class DegreeForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """One pair of wheel angles at one lift."""

    CORE: ClassVar[type[Any]] = DegreeReading
    FIXED: ClassVar[dict[str, Any]] = {"key": ""}
    side = forms.ChoiceField(choices=SIDES, label="Valve")
    wheel_set = forms.ChoiceField(
        choices=[("yes", "was set right after TDC"), ("no", "reads as it was, error comes off")], label="The wheel"
    )
    lift_mm = LengthField(label="At a lift of")
    opening_deg = CrankAngleField(label="Going up", bdc_deg=180.0)
    closing_deg = CrankAngleField(label="Coming down", bdc_deg=180.0)

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        if self.data.get("side") == Side.EXHAUST or self.initial.get("side") == Side.EXHAUST:
            for name in ("opening_deg", "closing_deg"):
                self.fields[name] = CrankAngleField(label=self.fields[name].label, bdc_deg=-180.0)
            self.dress()

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Choices as the core has them."""
        return found | {"side": Side(found["side"]), "wheel_set": found["wheel_set"] == "yes"}


class StepsForm(forms.Form):
    """What the cam can be moved by: keyway, offset bush, adjustable gear."""

    steps = forms.CharField(label="It can be moved by, crank °", help_text="as 2, 4, 8")
    degrees = forms.ChoiceField(choices=[("crank", "crank degrees"), ("cam", "cam degrees")], label="Given in")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["steps"].widget.attrs["class"] = "form-control"
        self.fields["degrees"].widget.attrs["class"] = "form-select"

    def clean(self) -> dict[str, Any]:
        """Steps as crank degrees."""
        found = super().clean() or {}
        if not self.errors:
            try:
                steps = [float(part) for part in found["steps"].replace(";", ",").split(",") if part.strip()]
            except ValueError:
                steps = []
            double = 2.0 if found["degrees"] == "cam" else 1.0
            if not 0 < len(steps) <= 12 or not all(0 < step <= 60 for step in steps):
                self.add_error("steps", "Up to twelve steps of 0 to 60 degrees, as in 2, 4, 8.")
            else:
                self.item = CamSteps(steps_deg=tuple(double * step for step in steps))
        return found
