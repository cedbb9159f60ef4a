"""What a what-if is typed into: one field a thing that may be changed, each becoming one change."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django import forms

from bench.page.fields import LengthField, NumberField, UnitFormMixin
from bench.shelf.models import ShelfGasket
from mockup.engine.changes import Change, ChangeKind
from mockup.engine.running import RODS, Material
from mockup.engine.valves import Side
from mockup.faults import FaultsError
from mockup.plans.what_if import WhatIf
from mockup.quantity.shown import format_exact
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class Lever:
    """One field: the change it makes, of which side, and what it is typed as."""

    kind: ChangeKind
    label: str
    side: Side | None = None
    help_text: str = ""
    signed: bool = False

    @property
    def along(self) -> bool:
        """Whether its amount lies along the bore, alike at the front and the rear."""
        return self.kind in (ChangeKind.DECK_CUT, ChangeKind.HEAD_CUT, ChangeKind.SHIMS)


LENGTHS: Mapping[str, Lever] = {
    "shims": Lever(ChangeKind.SHIMS, "Base shims, more", signed=True),
    "deck": Lever(ChangeKind.DECK_CUT, "Off the deck"),
    "head": Lever(ChangeKind.HEAD_CUT, "Off the head"),
    "pushrods": Lever(ChangeKind.PUSHRODS, "Pushrods, longer", signed=True),
    **{
        f"{name}_{side}": Lever(kind, f"{side.capitalize()} {words}", side, help_text, signed)
        for name, kind, words, help_text, signed in (
            ("relief", ChangeKind.RELIEF, "deeper", "along the valve", False),
            ("edge", ChangeKind.EDGE, "wider", "a side", False),
            ("valve", ChangeKind.VALVES, "larger", "across", True),
            ("sink", ChangeKind.SINK, "sunk", "", False),
        )
        for side in Side
    },
}
GROUPS = (
    ("Stack", ("gasket", "shims", "deck", "head")),
    ("Cam and rockers", ("cam", "cam_of", "ratio", "pushrods", "lash_intake", "lash_exhaust")),
    ("Reliefs", ("relief_intake", "relief_exhaust", "edge_intake", "edge_exhaust")),
    ("Valves", ("valve_intake", "valve_exhaust", "sink_intake", "sink_exhaust")),
    ("Pistons, speed and rods", ("piston", "piston_cc", "rpm", "rod")),
)
FOLDED = ("Valves", "Pistons, speed and rods")


class WhatIfForm(UnitFormMixin, forms.Form):
    """Everything that may be changed; what is left empty stays as it is. ``item`` is the what-if made of it."""

    item: WhatIf

    def __init__(self, report: Report, gaskets: Sequence[ShelfGasket], data: Any = None, **kwargs: Any) -> None:
        super().__init__(data, **kwargs)
        self.report, self.gaskets = report, {str(row.pk): row.core() for row in gaskets}
        self.engine = report.engine
        shelf = [("", "as it is"), *((str(row.pk), str(row)) for row in gaskets)]
        gone = {"invalid_choice": "No gasket “%(value)s” of this bore is on the shelf."}
        self.fields["gasket"] = forms.ChoiceField(choices=shelf, label="Gasket", required=False, error_messages=gone)
        for name, lever in LENGTHS.items():
            self.fields[name] = LengthField(
                label=lever.label, required=False, signed=lever.signed, help_text=lever.help_text
            )
        self._train(report)
        self._running()
        if report.job.engine.separate_barrels:
            del self.fields["deck"]
        else:
            del self.fields["shims"]
        if report.job.pushrods_chosen is None:
            del self.fields["pushrods"]
        self.read_in(report.job.unit)
        self.dress()

    def _train(self, report: Report) -> None:
        self.fields["cam"] = NumberField(label="Cam, crank degrees", help_text="4 advances, −4 retards", required=False)
        if report.job.may_have_two_cams:
            sides = [("", "both cams"), *((str(side), f"the {side}") for side in Side)]
            self.fields["cam_of"] = forms.ChoiceField(choices=sides, label="Which cam", required=False)
        now = f"now {self.engine.rocker_ratio:g}"
        self.fields["ratio"] = NumberField(label="Rocker ratio", help_text=now, required=False)
        for side in Side:
            if side in report.cam.sides:
                label = f"{side.capitalize()} lash"
                self.fields[f"lash_{side}"] = LengthField(label=label, required=False, help_text="never counted on")

    def _running(self) -> None:
        self.fields["piston"] = LengthField(
            label="Other pistons, higher", required=False, signed=True, help_text="same reliefs supposed"
        )
        self.fields["piston_cc"] = NumberField(
            label="Their volume, cc more", help_text="a dome takes away", required=False
        )
        self.fields["rpm"] = NumberField(label="Speed, rpm", help_text="for the running estimate", required=False)
        rods = [("", "as they are"), *((str(one), str(one)) for one in RODS)]
        self.fields["rod"] = forms.ChoiceField(choices=rods, label="Rods of", required=False)

    @property
    def groups(self) -> list[dict[str, Any]]:
        """The fields in their groups, those that this build has; what is seldom changed is folded away."""
        return [
            {
                "title": title,
                "fields": (fields := [self[name] for name in names if name in self.fields]),
                "folded": title in FOLDED,
                "filled": any(field.value() or field.errors for field in fields),
            }
            for title, names in GROUPS
        ]

    def clean(self) -> dict[str, Any]:
        """Make the what-if; a fault of the core stands at the field it came from."""
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
        """What each filled field makes, in the order the work is done."""
        makers: list[tuple[str, Any]] = []
        if found.get("gasket"):
            gasket = self.gaskets[found["gasket"]]
            makers.append(("gasket", lambda: Change(key="gasket", kind=ChangeKind.GASKET, gasket=gasket)))
        for name, lever in LENGTHS.items():
            if found.get(name):
                makers.append((name, lambda name=name, lever=lever: _of_length(name, lever, found[name])))
        if found.get("piston") or found.get("piston_cc"):
            makers.append(("piston", lambda: self._pistons(found)))
        if found.get("cam"):
            side = Side(found["cam_of"]) if found.get("cam_of") else None
            makers.append(("cam", lambda: Change(key="cam", kind=ChangeKind.CAM, side=side, amount=found["cam"])))
        more = round((found.get("ratio") or self.engine.rocker_ratio) - self.engine.rocker_ratio, 6)
        if more:
            makers.append(("ratio", lambda: Change(key="ratio", kind=ChangeKind.ROCKERS, amount=more)))
        lashes = [side for side in Side if found.get(f"lash_{side}") is not None]
        return makers + [(f"lash_{side}", lambda side=side: self._lash(side, found[f"lash_{side}"])) for side in lashes]

    def _pistons(self, found: Mapping[str, Any]) -> Change:
        higher, more = found.get("piston") or 0.0, found.get("piston_cc") or 0.0
        return Change(key="piston", kind=ChangeKind.PISTONS, front_mm=higher, rear_mm=higher, amount=more)

    def _lash(self, side: Side, lash_mm: float) -> Change:
        now = self.report.cam.sides[side].train.lash_mm
        return Change(key=f"lash_{side}", kind=ChangeKind.LASH, side=side, amount=round(lash_mm - now, 6))


def _of_length(name: str, lever: Lever, mm: float) -> Change:
    if lever.along:
        return Change(key=name, kind=lever.kind, front_mm=mm, rear_mm=mm)
    return Change(key=name, kind=lever.kind, side=lever.side, amount=mm)


def typed_of(what_if: WhatIf, report: Report, gaskets: Sequence[ShelfGasket]) -> dict[str, str]:
    """A what-if as it would be typed into the form."""
    engine, unit = report.engine, report.job.unit
    found: dict[str, str] = {}
    for change in what_if.changes:
        if change.kind is ChangeKind.GASKET:
            # One that was taken off the shelf since is said to be gone, at the field.
            name = change.gasket.name if change.gasket else ""
            found["gasket"] = next((str(row.pk) for row in gaskets if row.core() == change.gasket), name)
        elif change.kind is ChangeKind.CAM:
            found |= {"cam": f"{change.amount:g}", "cam_of": str(change.side or "")}
        elif change.kind is ChangeKind.ROCKERS:
            found["ratio"] = f"{engine.rocker_ratio + change.amount:g}"
        elif change.kind is ChangeKind.LASH:
            cam = report.cam.sides.get(change.side or Side.INTAKE)
            now = cam.train.lash_mm if cam else 0.0
            found[f"lash_{change.side}"] = format_exact(now + change.amount, unit)
        elif change.kind is ChangeKind.PISTONS:
            found |= {"piston": format_exact(change.front_mm, unit), "piston_cc": f"{change.amount:g}"}
        else:
            name = next(
                name for name, lever in LENGTHS.items() if (lever.kind, lever.side) == (change.kind, change.side)
            )
            found[name] = format_exact(change.front_mm if LENGTHS[name].along else change.amount, unit)
    if what_if.rpm is not None:
        found["rpm"] = f"{what_if.rpm:g}"
    return found | ({"rod": str(what_if.rod)} if what_if.rod else {})
