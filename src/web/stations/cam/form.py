"""Forms of the cam station: one pair of wheel angles, and the steps the cam can be moved by."""

from typing import Any, ClassVar

from django import forms

from mockup.engine.valves import Side
from mockup.quantity.value import Unit
from mockup.readings.cam_timing import DegreeReading
from web.builds.entry_kinds import CamSteps
from web.page.cam_forms import SIDES
from web.page.fields import CoreFormMixin, CrankAngleField, LengthField, UnitFormMixin


class DegreeForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """One pair of wheel angles at one lift."""

    CORE: ClassVar[type[Any]] = DegreeReading
    FIXED: ClassVar[dict[str, Any]] = {"key": ""}
    side = forms.ChoiceField(choices=SIDES, label="Valve")
    wheel_set = forms.ChoiceField(
        choices=[("yes", "corrected after TDC"), ("no", "reads as it was, its error is subtracted")], label="The wheel"
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
        """Return choices as core data."""
        return found | {"side": Side(found["side"]), "wheel_set": found["wheel_set"] == "yes"}


class StepsForm(forms.Form):
    """The steps the cam can be moved by: keyway, offset bush, adjustable gear."""

    steps = forms.CharField(label="It can be moved by, crank °", help_text="as 2, 4, 8")
    degrees = forms.ChoiceField(choices=[("crank", "crank degrees"), ("cam", "cam degrees")], label="Given in")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["steps"].widget.attrs["class"] = "form-control"
        self.fields["degrees"].widget.attrs["class"] = "form-select"

    def clean(self) -> dict[str, Any]:
        """Return the steps as crank degrees."""
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
