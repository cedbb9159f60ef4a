"""Forms of the cam station: one pair of wheel angles, and the steps the cam can be moved by."""

from typing import Any, ClassVar

from django import forms

from bench.builds.kinds import CamSteps
from bench.page.cam_forms import SIDES
from bench.page.fields import CoreFormMixin, CrankAngleField, LengthField, UnitFormMixin
from mockup.engine.valves import Side
from mockup.quantity.value import Unit
from mockup.readings.cam_timing import DegreeReading


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
    """Steps the cam can be moved by: keyway, offset bush, adjustable gear."""

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
