"""The form of the running estimate: materials, temperatures, masses, speed."""

from typing import Any, ClassVar

from django import forms

from mockup.engine.running import BLOCKS, PISTONS, RODS, Material, Running
from web.page.fields import CoreFormMixin, LengthField, UnitFormMixin


def _number(label: str, initial: float) -> forms.FloatField:
    return forms.FloatField(label=label, initial=initial)


def _of(materials: tuple[Material, ...], label: str) -> forms.ChoiceField:
    return forms.ChoiceField(choices=[(one, one) for one in materials], label=label)


class RunningForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The inputs of the running estimate."""

    CORE: ClassVar[type[Any]] = Running
    compression_height_mm = LengthField(
        big=True, label="Compression height", example_mm=43.18, help_text="pin to crown"
    )
    block = _of(BLOCKS, "Block or barrels")
    rod = _of(RODS, "Rods")
    piston = _of(PISTONS, "Pistons")
    block_rise_k = _number("Block warmer by, K", 65)
    crank_rise_k = _number("Crank warmer by, K", 70)
    rod_rise_k = _number("Rods warmer by, K", 80)
    piston_rise_k = _number("Pistons warmer by, K", 150)
    rpm = _number("Highest rpm", 6000)
    reciprocating_g = _number("Reciprocating mass, g", 800)
    rod_area_mm2 = _number("Rod beam, mm²", 150)
    bearings_mm = LengthField(
        label="Bearing clearances",
        required=False,
        help_text="rod + main + pin, if the check took them up the other way",
    )

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return choices as materials; an empty bearing clearance is none."""
        materials = {name: Material(found[name]) for name in ("block", "rod", "piston")}
        return found | materials | {"bearings_mm": found.get("bearings_mm") or 0.0}
