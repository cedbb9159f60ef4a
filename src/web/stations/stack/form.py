"""Forms of the stack: a gasket or shims by hand, a decided cut or pistons, a target."""

from typing import Any, ClassVar

from django import forms

from mockup.base.faults import Fault, refuse
from mockup.changes.change import Change, ChangeKind
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED
from mockup.engine.block import Engine
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.quantity.value import MM_PER_THOU, DeckSign, Unit
from web.page.fields import CoreFormMixin, DeckField, LengthField, UnitFormMixin


class FinalGasketForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The gasket the engine will run with."""

    CORE: ClassVar[type[Any]] = FinalGasket
    name = forms.CharField(max_length=60, label="Gasket", required=False)
    compressed_mm = LengthField(label="Compressed")
    bore_mm = LengthField(
        big=True, label="Gasket bore", required=False, help_text="for the ratio; empty: the cylinder’s and a little"
    )
    known_to_mm = LengthField(
        fine=True,
        label="Thickness known to, ±",
        required=False,
        help_text="empty: the usual, 0.001 in (0.025 mm)",
        example_mm=MM_PER_THOU,
    )

    def __init__(self, unit: Unit, engine: Engine, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        self.engine = engine
        if engine.separate_barrels:
            self.fields["compressed_mm"].help_text += "; 0 where it runs without one, metal to metal"

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return core data: no gasket has no bore; a thickness has the usual accuracy."""
        if not found["compressed_mm"] and not self.engine.separate_barrels:
            refuse([Fault("compressed_mm", "Only separate barrels may run without a head gasket.")])
        return found | {"known_to_mm": found.get("known_to_mm") or 0.0}


class ShimsForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The base shims that one barrel, or every barrel, will run on."""

    CORE: ClassVar[type[Any]] = BaseShims
    total_mm = LengthField(label="Base shims, together")
    cylinder = forms.TypedChoiceField(coerce=int, empty_value=None, label="Under", required=False)

    def __init__(self, unit: Unit, engine: Engine, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        choices = [("", "every barrel"), *((c, f"barrel {c}") for c in engine.cylinder_numbers)]
        self.fields["cylinder"] = forms.TypedChoiceField(
            choices=choices, coerce=int, empty_value=None, label="Under", required=False
        )
        self.dress()


class ChangeForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """A decided cut, or other pistons."""

    CORE: ClassVar[type[Any]] = Change
    FIXED: ClassVar[dict[str, Any]] = {"key": ""}
    kind = forms.ChoiceField(
        choices=[
            (DECK_CUT, "cut the deck"),
            (HEAD_CUT, "cut the head"),
            (PISTONS_CHANGED, "other pistons, crown higher"),
        ],
        label="What",
    )
    bank = forms.TypedChoiceField(coerce=int, empty_value=None, label="Bank", required=False)
    front_mm = LengthField(label="At the front bore", signed=True, example_mm=0.254)
    rear_mm = LengthField(label="At the rear bore", signed=True, required=False, help_text="empty: the same all round")

    def __init__(self, unit: Unit, engine: Engine, *args: Any, **kwargs: Any) -> None:
        super().__init__(unit, *args, **kwargs)
        if len(engine.banks) > 1 and not engine.separate_barrels:
            banks = [("", "every bank"), *((at, f"bank {at + 1}") for at in range(len(engine.banks)))]
            self.fields["bank"] = forms.TypedChoiceField(
                choices=banks, coerce=int, empty_value=None, label="Bank", required=False
            )
        else:
            del self.fields["bank"]
        self.dress()

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return core data; an empty rear equals the front."""
        rear = found["front_mm"] if found.get("rear_mm") is None else found["rear_mm"]
        return found | {"kind": ChangeKind.named(found["kind"]), "rear_mm": rear}


class TargetForm(UnitFormMixin, forms.Form):
    """The deck clearance to cut to, as a deck is typed."""

    target = DeckField(label="Cut to", help_text="as 5 down, zero")

    def __init__(self, unit: Unit, sign: DeckSign, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["target"].sign = sign  # type: ignore[attr-defined]  # a form keeps a copy of the field above
        self.read_in(unit)
        self.dress()
