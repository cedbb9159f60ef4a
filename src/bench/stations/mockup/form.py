"""The mock-up's form: what stood between head and deck, and what the valves moved on."""

from typing import Any

from django import forms

from bench.builds.models import MockUp
from bench.page.fields import LengthField, UnitFormMixin
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, LashAt, Lifters, Springs
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.faults import FaultsError
from mockup.quantity.value import Unit
from mockup.words import BOLT_WORDS, CLAY_WORDS, GASKET_WORDS, LIFTER_WORDS, SPRING_WORDS

LASH_AT = [(LashAt.VALVE, "at the valve"), (LashAt.PUSHROD, "at the pushrod side")]
TURNS = [("yes", "two full turns by hand"), ("no", "less, or not sure")]


class MockUpForm(UnitFormMixin, forms.Form):
    """The conditions of one mock-up."""

    gasket_state = forms.ChoiceField(choices=list(GASKET_WORDS.items()), label="Gasket in the mock-up")
    gasket_mm = LengthField(
        label="Its thickness", required=False, help_text="compressed if used, free if new; empty for none"
    )
    bolts = forms.ChoiceField(choices=list(BOLT_WORDS.items()), label="Head bolts", initial=Bolts.SNUGGED)
    lifters = forms.ChoiceField(choices=list(LIFTER_WORDS.items()), label="Lifters", initial=Lifters.BLOCKED)
    springs = forms.ChoiceField(choices=list(SPRING_WORDS.items()), label="Springs", initial=Springs.CHECKING)
    lash_mm = LengthField(label="Lash left in", required=False, help_text="empty for zero lash")
    lash_at = forms.ChoiceField(choices=LASH_AT, label="Lash measured")
    shims_mm = LengthField(label="Base shims under the barrels", required=False, help_text="together; empty for none")
    clay = forms.ChoiceField(choices=list(CLAY_WORDS.items()), label="Clay")
    two_turns = forms.ChoiceField(choices=TURNS, label="Crank turned")

    def __init__(self, unit: Unit, separate_barrels: bool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if not separate_barrels:
            del self.fields["shims_mm"]
        self.read_in(unit)
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Hold the conditions against the core."""
        found = super().clean() or {}
        for name in ("gasket_mm", "lash_mm", "shims_mm"):
            found[name] = found.get(name) or 0.0
        found["two_turns"] = found.get("two_turns") == "yes"
        if not self.errors:
            try:
                _core(found)
            except FaultsError as error:
                for fault in error.faults:
                    self.add_error(fault.path, fault.message)
        return found


def _core(found: dict[str, Any]) -> CoreMockUp:
    return CoreMockUp(
        key="",
        gasket_state=GasketState(found["gasket_state"]),
        gasket_mm=found["gasket_mm"],
        bolts=Bolts(found["bolts"]),
        lifters=Lifters(found["lifters"]),
        springs=Springs(found["springs"]),
        lash_mm=found["lash_mm"],
        lash_at=LashAt(found["lash_at"]),
        shims_mm=found["shims_mm"],
        clay=Clay(found["clay"]),
        two_turns=found["two_turns"],
    )


def initial_of(mockup: MockUp | None) -> dict[str, Any]:
    """What the form shows: the latest mock-up's conditions, so that only what changed is typed."""
    if mockup is None:
        return {}
    shown = {name: getattr(mockup, name) for name in MockUpForm.base_fields}
    shown["two_turns"] = "yes" if mockup.two_turns else "no"
    return shown | {name: shown[name] or None for name in ("gasket_mm", "lash_mm", "shims_mm")}
