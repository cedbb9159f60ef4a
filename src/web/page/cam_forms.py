"""Forms of a cam: its card, and a measured lobe pasted in; for build and shelf."""

from typing import Any, ClassVar

from django import forms

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.engine.cam import CamCard, Duration, Events, LiftAt, LobeCard, LobeTable, TableZero
from mockup.engine.valves import Side
from mockup.motion.uncertain import refuse_impossible
from mockup.quantity.pasted import Pasted, parse_pasted
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from web.page.fields import CoreFormMixin, CrankAngleField, DegreesField, LengthField, NumberField, UnitFormMixin

SIDES = [(Side.INTAKE, "intake"), (Side.EXHAUST, "exhaust")]


def _durations(found: dict[str, Any], side: str) -> tuple[Duration, ...]:
    pairs = [(found.get(f"{side}_duration_{at}"), found.get(f"{side}_at_{at}")) for at in (1, 2, 3)]
    refuse(
        Fault(f"{side}_at_{at}", "A duration needs its checking lift, and the other way round.")
        for at, (degrees, lift) in enumerate(pairs, start=1)
        if (degrees is None) != (lift is None)
    )
    return tuple(Duration(degrees, lift) for degrees, lift in pairs if degrees is not None and lift is not None)


def card_of(found: dict[str, Any]) -> CamCard:
    """Return the card that was typed; an empty exhaust takes the intake's lobe.

    Raises FaultsError.
    """
    ratio = _ratio(found)
    lobes = {"intake": _lobe(found, "intake", ratio)}
    alike = not any(found.get(f"exhaust_{name}") is not None for name in _OF_A_LOBE)
    lobes["exhaust"] = lobes["intake"] if alike else _lobe(found, "exhaust", ratio)
    icl, lsa = _stands(found)
    return CamCard(
        **lobes,
        icl_deg=icl,
        lsa_deg=lsa,
        intake_lash_mm=found.get("intake_lash_mm") or 0.0,
        exhaust_lash_mm=found.get("exhaust_lash_mm") or 0.0,
        two_cams=found.get("two_cams") == "yes",
        events=_events(found),
    )


_OF_A_LOBE = ("lift", "duration_1", "at_1", "duration_2", "at_2", "duration_3", "at_3", "tdc_lift")
APART_DEG = 0.6
"""Printed figures are whole degrees: further apart than this they contradict one another."""


def _ratio(found: dict[str, Any]) -> float:
    """Return the ratio by which typed lifts are divided to get lifts at the lobe [1]."""
    if found.get("lifts") != "valve":
        return 1.0
    ratio: float | None = found.get("lift_ratio")
    if ratio is None or not 1 <= ratio <= 3:
        raise FaultsError([Fault("lift_ratio", "Lifts at the valve need the ratio they were printed for, 1 to 3.")])
    return ratio


def _lobe(found: dict[str, Any], side: str, ratio: float) -> LobeCard:
    lift, tdc = found.get(f"{side}_lift"), found.get(f"{side}_tdc_lift")
    if lift is None:
        raise FaultsError([Fault(f"{side}_lift", "Give its lift, at the lobe or at the valve.")])
    try:
        lobe = LobeCard(
            lift_mm=lift / ratio,
            durations=_durations(found, side),
            tdc_lift_mm=None if tdc is None else tdc / ratio,
        )
        refuse_impossible(lobe)
    except FaultsError as error:
        names = {"lift_mm": f"{side}_lift", "durations": f"{side}_duration_1", "tdc_lift_mm": f"{side}_tdc_lift"}
        raise FaultsError(_renamed(fault, side, names) for fault in error.faults) from error
    return lobe


def _stands(found: dict[str, Any]) -> tuple[float, float]:
    """Return intake centreline and lobe separation [deg] from two of a card's four figures."""
    lsa, icl, ecl = found.get("lsa_deg"), found.get("icl_deg"), found.get("ecl_deg")
    advance = found.get("advance_deg")
    if icl is None and lsa is not None and advance is not None:
        icl = lsa - advance
    if icl is None and lsa is not None and ecl is not None:
        icl = 2 * lsa - ecl
    if icl is None:
        raise FaultsError([Fault("icl_deg", "Give the intake centreline, or the cam’s advance.")])
    if ecl is None and lsa is None:
        raise FaultsError([Fault("lsa_deg", "Give the lobe separation, or the exhaust centreline.")])
    made = lsa if ecl is None else (icl + ecl) / 2
    assert made is not None
    if lsa is not None and abs(made - lsa) > APART_DEG:
        words = f"Centrelines of {icl:g} and {ecl:g} make a separation of {made:g}, but {lsa:g} is given. Which is it?"
        raise FaultsError([Fault("ecl_deg", words)])
    if advance is not None and lsa is not None and abs(lsa - icl - advance) > APART_DEG:
        words = (
            f"A separation of {lsa:g} and a centreline of {icl:g} are {lsa - icl:+g} of advance; {advance:g} is given."
        )
        raise FaultsError([Fault("advance_deg", words.replace("-", "−"))])
    return icl, lsa if lsa is not None else made


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


def _card(*, unit: str = "", **found: Any) -> CamCard:  # noqa: ARG001, passed on by the form
    return card_of(found)


class CardFields(UnitFormMixin, forms.Form):
    """The fields of a cam card, lobe by lobe and then the whole cam, in printed order."""

    lifts = forms.ChoiceField(
        choices=[("", "at the lobe"), ("valve", "at the valve")], required=False, label="Lifts are given"
    )
    lift_ratio = NumberField(label="for a ratio of", required=False, help_text="lifts at the valve alone")
    lsa_deg = DegreesField(label="Lobe separation, cam °", required=False)
    icl_deg = DegreesField(label="Intake centreline, ° ATDC", required=False, help_text="or the advance instead")
    ecl_deg = DegreesField(label="Exhaust centreline, ° BTDC", required=False, help_text="or the separation")
    advance_deg = forms.FloatField(label="Ground in advance, °", required=False)
    two_cams = forms.ChoiceField(
        choices=[("", "one cam"), ("yes", "a cam for each side")], required=False, label="Cams"
    )

    def add_card_fields(self) -> None:
        """Add the fields of both lobes."""
        for side in ("intake", "exhaust"):
            self.fields[f"{side}_lift"] = LengthField(label="Lift", required=False)
            for at in (1, 2, 3):
                self.fields[f"{side}_duration_{at}"] = DegreesField(label=f"Duration {at}, crank °", required=False)
                self.fields[f"{side}_at_{at}"] = LengthField(label="above a lobe lift of", required=False)
            self.fields[f"{side}_tdc_lift"] = LengthField(
                label="Lift at TDC", required=False, help_text="if the card gives it: it narrows the lobe"
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

    @property
    def common(self) -> list[forms.BoundField]:
        """Return the fields of the whole cam."""
        names = ("lsa_deg", "icl_deg", "ecl_deg", "advance_deg", "two_cams", "events_at")
        return [self[name] for name in names]

    @property
    def lift_fields(self) -> list[forms.BoundField]:
        """Return the field for where the lifts were measured."""
        return [self["lifts"], self["lift_ratio"]]

    @property
    def intake(self) -> list[forms.BoundField]:
        """Return the intake's fields."""
        return [self[name] for name in self.fields if name.startswith("intake_")]

    @property
    def exhaust(self) -> list[forms.BoundField]:
        """Return the exhaust's fields."""
        return [self[name] for name in self.fields if name.startswith("exhaust_")]


class CardForm(CoreFormMixin, CardFields):
    """The cam card of a build."""

    CORE: ClassVar[Any] = staticmethod(_card)

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        self.add_card_fields()
        self.read_in(unit)
        self.dress()


def initial_card(card: CamCard | None) -> dict[str, Any]:
    """Return the form's initial values for a card."""
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


def pasted_or_sent(text: str, file: Any) -> str:
    """Return a table's text: pasted, else from the sent file.

    Raises LengthError if it is not text.
    """
    if text.strip() or not file:
        return text
    try:
        return str(file.read(120_000), "utf-8-sig")
    except UnicodeDecodeError:
        raise LengthError("The file is not text in UTF-8.") from None


def table_of(text: str, side: Side, unit: Unit, *, at: str, degrees: str, zero: str) -> tuple[LobeTable, Pasted]:
    """Return a measured lobe from a pasted table, and how the text was understood.

    Raises LengthError, FaultsError.
    """
    pasted = parse_pasted(text, unit)
    double = 2.0 if degrees == "cam" else 1.0
    table = LobeTable(
        side=side,
        angles_deg=tuple(double * angle for angle in pasted.angles),
        lifts_mm=pasted.lifts_mm,
        at=LiftAt(at),
        zero=TableZero(zero),
    )
    return table, pasted


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
        """Read the table and validate it by the core."""
        found = super().clean() or {}
        if not self.errors:
            kinds = {kind: found[kind] for kind in ("at", "degrees", "zero")}
            try:
                self.item, self.pasted = table_of(self._text(found), Side(found["side"]), self.unit, **kinds)
            except LengthError as error:
                self.add_error("table", str(error))
            except FaultsError as error:
                self.add_error("table", " ".join(fault.message for fault in error.faults))
        return found

    def _text(self, found: dict[str, Any]) -> str:
        return pasted_or_sent(found["table"], found.get("file"))
