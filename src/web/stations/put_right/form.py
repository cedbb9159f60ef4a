"""The form of a what-if: one field for each thing that may be changed."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django import forms

from mockup.base.faults import Fault, FaultsError
from mockup.changes.change import Change, ChangeKind
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, LASH_CHANGED, ROCKERS_CHANGED
from mockup.engine.gasket import FinalGasket
from mockup.engine.running import RODS, Material
from mockup.engine.valves import Side
from mockup.plans.levers import can_be_made
from mockup.plans.what_if import WhatIf
from mockup.quantity.shown import format_exact
from mockup.quantity.value import Unit
from mockup.report import Report
from web.page.fields import LengthField, NumberField, UnitFormMixin
from web.shelf.models import ShelfCam, ShelfGasket


@dataclass(frozen=True, slots=True)
class TypedWhatIf:
    """A form field for the amount of one change, per side where it has sides."""

    kind: ChangeKind
    side: Side | None = None

    @property
    def name(self) -> str:
        """The field's name."""
        return f"{self.kind.field.name}_{self.side}" if self.side else self.kind.field.name

    @property
    def label(self) -> str:
        """Its label."""
        return self.kind.field.label.format(side=self.side.capitalize() if self.side else "")

    def change(self, amount: float) -> Change:
        """Return the change with this amount. Raises FaultsError."""
        if self.kind.along:
            return Change(key=self.name, kind=self.kind, front_mm=amount, rear_mm=amount)
        return Change(key=self.name, kind=self.kind, side=self.side, amount=amount)


def typed_fields() -> list[TypedWhatIf]:
    """Return the fields of kinds that the form does not make itself, in their order."""
    sides = {True: tuple(Side), False: (None,)}
    return [
        TypedWhatIf(kind, side) for kind in ChangeKind.all() if not kind.field.own for side in sides[kind.of_a_side]
    ]


GROUPS = ("Stack", "Cam and rockers", "Reliefs", "Valves, lash and crowns", "Pistons, speed and rods")
FOLDED = ("Valves, lash and crowns", "Pistons, speed and rods")
BESIDE = {"gasket": ("gasket_thick",), "cam": ("cam_of",), "piston": ("piston_cc", "rpm", "rod")}
"""Fields that follow another one, and make no change themselves."""


def grouped(names: Collection[str]) -> list[tuple[str, list[str]]]:
    """Return the names of fields by group, in order."""
    kinds = sorted(ChangeKind.all(), key=lambda kind: kind.field.order)
    found = []
    for title in GROUPS:
        stems = [kind.field.name for kind in kinds if kind.field.group == title]
        every = [name for stem in stems for name in (stem, *(f"{stem}_{side}" for side in Side), *BESIDE.get(stem, ()))]
        found.append((title, [name for name in every if name in names]))
    return found


class WhatIfForm(UnitFormMixin, forms.Form):
    """Everything that may be changed; empty fields change nothing.

    ``item`` is the resulting what-if.
    """

    item: WhatIf

    def __init__(
        self,
        report: Report,
        gaskets: Sequence[ShelfGasket],
        data: Any = None,
        cams: Sequence[ShelfCam] = (),
        **kwargs: Any,
    ) -> None:
        super().__init__(data, **kwargs)
        self.cams = {str(row.pk): row.core() for row in cams}
        in_now = [("", "as it is"), *((str(row.pk), str(row)) for row in cams)]
        no_cam = {"invalid_choice": "There is no cam “%(value)s” on the shelf."}
        self.fields["camshaft"] = forms.ChoiceField(
            choices=in_now, label="Another cam", required=False, error_messages=no_cam
        )
        self.report, self.gaskets = report, {str(row.pk): row.core() for row in gaskets}
        self.engine = report.engine
        shelf = [("", "as it is"), *((str(row.pk), str(row)) for row in gaskets)]
        gone = {"invalid_choice": "There is no gasket “%(value)s” of this bore on the shelf."}
        self.fields["gasket"] = forms.ChoiceField(choices=shelf, label="Gasket", required=False, error_messages=gone)
        self.fields["gasket_thick"] = LengthField(
            label="or compressed to", required=False, help_text="not on the shelf"
        )
        self.typed = [one for one in typed_fields() if can_be_made(one.kind, report.job)]
        for one in self.typed:
            self.fields[one.name] = _field(one)
        self._train(report)
        self._running()
        self.read_in(report.job.unit)
        self.dress()

    def _train(self, report: Report) -> None:
        self.fields["cam"] = NumberField(label="Cam, crank degrees", help_text="minus retards", required=False)
        if report.job.may_have_two_cams:
            sides = [("", "both cams"), *((str(side), f"the {side}") for side in Side)]
            self.fields["cam_of"] = forms.ChoiceField(choices=sides, label="Which cam", required=False)
        if self.engine.rocker_ratio is not None:
            now = f"now {self.engine.rocker_ratio:g}"
            self.fields["ratio"] = NumberField(label="Rocker ratio", help_text=now, required=False)
        for side in Side:
            if side in report.cam.sides:
                label = f"{side.capitalize()} lash"
                self.fields[f"lash_{side}"] = LengthField(label=label, required=False, help_text="never counted on")

    def _running(self) -> None:
        self.fields["piston"] = LengthField(
            label="Other pistons, higher", required=False, signed=True, help_text="assuming the same reliefs"
        )
        self.fields["piston_cc"] = NumberField(
            label="Their volume, cc more", help_text="a dome takes away", required=False
        )
        self.fields["rpm"] = NumberField(label="Speed, rpm", help_text="for the running estimate", required=False)
        rods = [("", "as they are"), *((str(one), str(one)) for one in RODS)]
        self.fields["rod"] = forms.ChoiceField(choices=rods, label="Rods of", required=False)

    @property
    def stepped(self) -> tuple[str, ...]:
        """Return the fields whose choices are stepped through."""
        return ("gasket", "camshaft")

    @property
    def sliders(self) -> dict[str, dict[str, str]]:
        """Return the sliders beside some fields: ends, step, rest and present value."""
        inch = self.report.job.unit is Unit.INCH
        ends: dict[str, tuple[float, float, float, float]] = {"cam": (-15, 15, 0.5, 0)}
        ratio = self.engine.rocker_ratio
        if ratio is not None:
            ends["ratio"] = (max(round(ratio - 0.3, 2), 1), round(ratio + 0.3, 2), 0.01, ratio)
        relief = (0, 100, 1, 0) if inch else (0, 2.5, 0.05, 0)
        ends |= {f"{RELIEF_DEEPENED.field.name}_{side}": relief for side in Side}
        found = {}
        for name, (low, high, step, rest) in ends.items():
            if name in self.fields:
                at = str(self[name].value() or "") or f"{rest:g}"
                found[name] = {
                    "low": f"{low:g}",
                    "high": f"{high:g}",
                    "step": f"{step:g}",
                    "rest": f"{rest:g}",
                    "at": at,
                }
        return found

    @property
    def groups(self) -> list[dict[str, Any]]:
        """Return the fields of this build in their groups; seldom used ones are folded away."""
        return [
            {
                "title": title,
                "fields": (fields := [self[name] for name in names]),
                "folded": title in FOLDED,
                "filled": any(field.value() or field.errors for field in fields),
            }
            for title, names in grouped(self.fields)
        ]

    def clean(self) -> dict[str, Any]:
        """Make the what-if; a fault of the core is shown at its field."""
        found = super().clean() or {}
        changes: list[Change] = []
        for name, make in self._makers(found):
            try:
                changes.append(make())
            except FaultsError as error:
                self.add_error(name, " ".join(fault.message for fault in error.faults))
        if not self.errors:
            rod = Material(found["rod"]) if found.get("rod") else None
            try:
                self.item = WhatIf(changes=tuple(changes), rpm=found.get("rpm"), rod=rod)
            except FaultsError as error:
                self.add_error("rpm", " ".join(fault.message for fault in error.faults))
        return found

    def _makers(self, found: Mapping[str, Any]) -> list[tuple[str, Any]]:
        """Return the changes of the filled fields, in working order."""
        makers: list[tuple[str, Any]] = []
        if found.get("gasket") or found.get("gasket_thick"):
            name = "gasket_thick" if found.get("gasket_thick") else "gasket"
            makers.append((name, lambda: self._gasket(found)))
        filled = (one for one in self.typed if found.get(one.name))
        makers += [(one.name, lambda one=one: one.change(found[one.name])) for one in filled]
        if found.get("piston") or found.get("piston_cc"):
            makers.append(("piston", lambda: self._pistons(found)))
        if found.get("camshaft"):
            cam = self.cams[found["camshaft"]]
            makers.append(("camshaft", lambda: Change(key="camshaft", kind=CAMSHAFT_CHANGED, cam=cam)))
        if found.get("cam"):
            side = Side(found["cam_of"]) if found.get("cam_of") else None
            makers.append(("cam", lambda: Change(key="cam", kind=CAM_MOVED, side=side, amount=found["cam"])))
        more = round((found.get("ratio") or self.engine.ratio) - self.engine.ratio, 6)
        if more:
            makers.append(("ratio", lambda: Change(key="ratio", kind=ROCKERS_CHANGED, amount=more)))
        lashes = [side for side in Side if found.get(f"lash_{side}") is not None]
        return makers + [(f"lash_{side}", lambda side=side: self._lash(side, found[f"lash_{side}"])) for side in lashes]

    def _gasket(self, found: Mapping[str, Any]) -> Change:
        """Return another gasket: from the shelf, or of a typed thickness with the present bore."""
        chosen, thick = found.get("gasket"), found.get("gasket_thick")
        if chosen and thick:
            raise FaultsError([Fault("gasket_thick", "Choose one of the two: from the shelf, or the thickness.")])
        final = self.report.job.final_gasket
        made = (
            self.gaskets[chosen]
            if chosen
            else FinalGasket(compressed_mm=float(thick or 0.0), bore_mm=final.bore_mm if final else None)
        )
        return Change(key="gasket", kind=GASKET_CHANGED, gasket=made)

    def _pistons(self, found: Mapping[str, Any]) -> Change:
        higher, more = found.get("piston") or 0.0, found.get("piston_cc") or 0.0
        return Change(key="piston", kind=PISTONS_CHANGED, front_mm=higher, rear_mm=higher, amount=more)

    def _lash(self, side: Side, lash_mm: float) -> Change:
        now = self.report.cam.sides[side].train.lash_mm
        return Change(key=f"lash_{side}", kind=LASH_CHANGED, side=side, amount=round(lash_mm - now, 6))


def _field(one: TypedWhatIf) -> forms.Field:
    said = one.kind.field
    if one.kind.along or one.kind.is_length:
        return LengthField(label=one.label, required=False, signed=said.signed, help_text=said.help_text)
    return NumberField(label=one.label, required=False, help_text=said.help_text)


def typed_of(
    what_if: WhatIf, report: Report, gaskets: Sequence[ShelfGasket], cams: Sequence[ShelfCam] = ()
) -> dict[str, str]:
    """Return a what-if as it would be typed into the form."""
    found: dict[str, str] = {}
    for change in what_if.changes:
        found |= _typed(change, report, gaskets, cams)
    if what_if.rpm is not None:
        found["rpm"] = f"{what_if.rpm:g}"
    return found | ({"rod": str(what_if.rod)} if what_if.rod else {})


def _typed(change: Change, report: Report, gaskets: Sequence[ShelfGasket], cams: Sequence[ShelfCam]) -> dict[str, str]:
    """Return one change as it would be typed, by the names of its fields."""
    unit = report.job.unit
    if change.kind is GASKET_CHANGED:
        return _typed_gasket(change, gaskets, unit)
    if change.kind is CAMSHAFT_CHANGED:
        named = change.cam.name if change.cam else ""
        return {"camshaft": next((str(row.pk) for row in cams if row.core() == change.cam), named)}
    if change.kind is CAM_MOVED:
        return {"cam": f"{change.amount:g}", "cam_of": str(change.side or "")}
    if change.kind is ROCKERS_CHANGED:
        return {"ratio": f"{report.engine.ratio + change.amount:g}"}
    if change.kind is LASH_CHANGED:
        cam = report.cam.sides.get(change.side or Side.INTAKE)
        now = cam.train.lash_mm if cam else 0.0
        return {f"lash_{change.side}": format_exact(now + change.amount, unit)}
    if change.kind is PISTONS_CHANGED:
        return {"piston": format_exact(change.front_mm, unit), "piston_cc": f"{change.amount:g}"}
    return _typed_amount(change, unit)


def _typed_gasket(change: Change, gaskets: Sequence[ShelfGasket], unit: Unit) -> dict[str, str]:
    """Return a gasket as chosen from the shelf, else its thickness.

    One that was taken off the shelf since goes by its name, which is reported at the field.
    """
    gasket = change.gasket
    kept = next((str(row.pk) for row in gaskets if row.core() == gasket), gasket.name if gasket else "")
    if kept or gasket is None:
        return {"gasket": kept}
    return {"gasket_thick": format_exact(gasket.compressed_mm, unit)}


def _typed_amount(change: Change, unit: Unit) -> dict[str, str]:
    amount = change.front_mm if change.kind.along else change.amount
    is_length = change.kind.along or change.kind.is_length
    name = TypedWhatIf(change.kind, change.side).name
    return {name: format_exact(amount, unit) if is_length else f"{amount:g}"}
