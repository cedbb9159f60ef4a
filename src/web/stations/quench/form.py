"""The form of the running estimate: materials, temperatures, masses, speed."""

from typing import Any, ClassVar

from django import forms

from mockup.engine.running import BLOCKS, PISTONS, RODS, HotGrowth, Material, Running
from mockup.quantity.shown import format_bench
from mockup.quantity.typed_units import AREA, MASS, RISE
from mockup.quantity.value import Unit
from web.page.fields import CoreFormMixin, GrowthField, LengthField, QuantityField, UnitFormMixin


def _number(label: str, initial: float) -> forms.FloatField:
    return forms.FloatField(label=label, initial=initial)


def _of(materials: tuple[Material, ...], label: str) -> forms.ChoiceField:
    return forms.ChoiceField(choices=[(one, one) for one in materials], label=label)


class HotGrowthForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The builder's own growth when hot, as one number."""

    CORE: ClassVar[type[Any]] = HotGrowth
    hot_mm = GrowthField(label="Growth when hot")

    def read_in(self, unit: Unit) -> None:
        """Read it in ``unit``, with an example in it."""
        super().read_in(unit)
        self.fields["hot_mm"].help_text = f"as +{format_bench(0.1016, unit)} hot: the quench grows so much"


class RunningForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The inputs of the running estimate."""

    CORE: ClassVar[type[Any]] = Running
    compression_height_mm = LengthField(
        big=True, label="Compression height", example_mm=43.18, help_text="pin to crown"
    )
    block = _of(BLOCKS, "Block or barrels")
    rod = _of(RODS, "Rods")
    piston = _of(PISTONS, "Pistons")
    block_rise_k = QuantityField(RISE, label="Block warmer by", initial=65.0)
    crank_rise_k = QuantityField(RISE, label="Crank warmer by", initial=70.0)
    rod_rise_k = QuantityField(RISE, label="Rods warmer by", initial=80.0)
    piston_rise_k = QuantityField(RISE, label="Pistons warmer by", initial=150.0)
    rpm = _number("Highest rpm", 6000)
    reciprocating_g = QuantityField(MASS, label="Reciprocating mass", initial=800.0)
    rod_area_mm2 = QuantityField(AREA, label="Rod beam", initial=150.0, help_text="its cross-section")
    bearings_mm = LengthField(
        label="Bearing clearances",
        required=False,
        help_text="rod + main + pin, if the check took them up the other way",
    )

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return choices as materials; an empty bearing clearance is none."""
        materials = {name: Material(found[name]) for name in ("block", "rod", "piston")}
        return found | materials | {"bearings_mm": found.get("bearings_mm") or 0.0}
