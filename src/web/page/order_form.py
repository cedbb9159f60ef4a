"""The targets for pistons and gasket to order, as typed, on page and printed order."""

from typing import Any

from django import forms

from mockup.base.faults import FaultsError
from mockup.plans.pistons_to_order import Wanted
from mockup.quantity.shown import mm_range
from mockup.quantity.typed_units import MASS
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.report import Report
from web.page.fields import LengthField, NumberField, QuantityField, UnitFormMixin

STEPS_MM = {Unit.INCH: (MM_PER_THOU, 5 * MM_PER_THOU), Unit.MILLIMETRE: (0.05, 0.1)}
"""The steps makers usually offer for compression heights and reliefs: common practice, no source."""
TARGETS = ("quench", "face", "edge", "ratio")
STAYS = ("height_now", "intake_relief", "exhaust_relief", "crown", "crown_least", "land", "land_least")
MAKER = ("height_step", "relief_step", "volume_step", "tolerance", "relief_tolerance", "volume_tolerance", "moving")


class OrderForm(UnitFormMixin, forms.Form):
    """Targets, present sizes, and the maker's steps.

    ``item`` holds them for the core; the gasket's fields are separate.
    """

    item: Wanted
    gasket_quench = LengthField(label="Quench wanted", required=False)
    gasket_tried = LengthField(label="Try a gasket of", required=False, help_text="compressed")
    quench = LengthField(label="Quench wanted", required=False, help_text="by the middle deck")
    face = LengthField(label="Face, above the minimum", required=False, help_text="extra; empty: none")
    edge = LengthField(label="Edge, above the minimum", required=False, help_text="extra; empty: none")
    ratio = NumberField(label="Ratio wanted", required=False)
    height_now = LengthField(
        label="Compression height now", required=False, big=True, help_text="of the present pistons"
    )
    intake_relief = LengthField(label="Intake relief now", required=False, help_text="its depth")
    exhaust_relief = LengthField(label="Exhaust relief now", required=False, help_text="its depth")
    crown = LengthField(label="Crown under it, now", required=False)
    crown_least = LengthField(label="Crown, least", required=False, help_text="as the maker allows")
    land = LengthField(label="Top land, now", required=False, help_text="crown to top ring")
    land_least = LengthField(label="Top land, least", required=False, help_text="as the maker allows")
    height_step = LengthField(label="Heights in steps of", required=False, fine=True)
    relief_step = LengthField(label="Reliefs in steps of", required=False, fine=True)
    volume_step = NumberField(label="Volumes in steps of, cc", required=False)
    tolerance = LengthField(label="Height, ±", required=False, fine=True)
    relief_tolerance = LengthField(label="Reliefs, ±", required=False, fine=True)
    volume_tolerance = NumberField(label="Volume, ± cc", required=False)
    moving = QuantityField(MASS, label="Reciprocating mass", required=False, help_text="with the new ones")

    def __init__(self, report: Report, data: Any = None) -> None:
        super().__init__(data)
        self.report = report
        self.read_in(report.job.unit)
        running = report.job.running
        if running:
            now = MASS.format(running.reciprocating_g, report.job.unit)
            self.fields["moving"].help_text = f"with the new ones; now {now}"
        self.dress()

    @property
    def gasket_fields(self) -> list[forms.BoundField]:
        """Return the fields about the gasket."""
        return [self["gasket_quench"], self["gasket_tried"]]

    @property
    def targets(self) -> list[forms.BoundField]:
        """Return the targets for the pistons."""
        return [self[name] for name in TARGETS]

    @property
    def stays(self) -> list[forms.BoundField]:
        """Return the fields about the present pistons."""
        return [self[name] for name in STAYS]

    @property
    def maker(self) -> list[forms.BoundField]:
        """Return the maker's steps and tolerances."""
        return [self[name] for name in MAKER]

    @property
    def asks_for_pistons(self) -> bool:
        """Return whether anything is asked of new pistons."""
        return self.is_bound and any(self.data.get(name, "").strip() for name in TARGETS)

    def clean(self) -> dict[str, Any]:
        """Validate the targets by the core; empty ones take the usual value."""
        found = super().clean() or {}
        for name, low, high in (("gasket_quench", 0.05, 10.0), ("gasket_tried", 0.05, 6.0)):
            typed = found.get(name)
            if typed is not None and not low <= typed <= high:
                self.add_error(name, f"From {mm_range(low, high)}.")
        if self.errors:
            return found
        height, relief = STEPS_MM[self.report.job.unit]
        given: dict[str, Any] = {
            "quench_mm": found.get("quench"),
            "face_mm": found.get("face") or 0.0,
            "edge_mm": found.get("edge") or 0.0,
            "ratio": found.get("ratio"),
            "moving_g": found.get("moving"),
            "height_step_mm": height if found.get("height_step") is None else found["height_step"],
            "relief_step_mm": relief if found.get("relief_step") is None else found["relief_step"],
            **{f"{name}_mm": found.get(name) for name in STAYS},
        }
        usual = {"volume_step": "volume_step_cc", "volume_tolerance": "volume_tolerance_cc"}
        usual |= {"tolerance": "tolerance_mm", "relief_tolerance": "relief_tolerance_mm"}
        given |= {core: found[name] for name, core in usual.items() if found.get(name) is not None}
        try:
            self.item = Wanted(**given)
        except FaultsError as error:
            for fault in error.faults:
                name = fault.path.removesuffix("_mm").removesuffix("_cc").removesuffix("_g")
                self.add_error(name if name in self.fields else None, fault.message)
        return found
