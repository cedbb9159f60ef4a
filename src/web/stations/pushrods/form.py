"""The form with the window for the pushrods, and the chosen length."""

from typing import Any, ClassVar

from django import forms

from mockup.engine.pushrods import WINDOW_MM, Lifter, PushrodChoice
from web.page.fields import CoreFormMixin, LengthField, UnitFormMixin


class ChoiceForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """Window, step and lean; the bought length once it is known."""

    CORE: ClassVar[type[Any]] = PushrodChoice
    lifter = forms.ChoiceField(
        choices=[(Lifter.HYDRAULIC, "hydraulic: preload"), (Lifter.SOLID, "solid: lash at the valve")], label="Lifters"
    )
    low_mm = LengthField(label="At least", required=False, help_text="empty: 20 thou (0.5 mm) under the aim")
    aim_mm = LengthField(label="Aim at")
    high_mm = LengthField(label="At most", required=False, help_text="empty: as much over it")
    step_mm = LengthField(label="Maker’s step", required=False, example_mm=1.27, help_text="empty for none")
    lean_deg = forms.FloatField(label="Pushrod leans, °", required=False, initial=0)
    chosen_mm = LengthField(big=True, label="Chosen", required=False, example_mm=187.96, help_text="once known")

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return core data: no step is 0, no lean is upright; a target alone has its usual window."""
        kept = {"step_mm": found.get("step_mm") or 0.0, "lean_deg": found.get("lean_deg") or 0.0}
        aim = found["aim_mm"]
        if found.get("low_mm") is None:
            kept["low_mm"] = max(aim - WINDOW_MM, 0.0)
        if found.get("high_mm") is None:
            kept["high_mm"] = aim + WINDOW_MM
        return found | kept | {"lifter": Lifter(found["lifter"])}
