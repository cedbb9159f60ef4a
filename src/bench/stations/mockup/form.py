"""The mock-up's form: what stood between head and deck, and what the valves moved on."""

from typing import Any

from django import forms

from bench.builds.models import MockUp
from bench.page.fields import LengthField, UnitFormMixin
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, Fasteners, LashAt, Lifters, PistonsIn, Springs
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.faults import FaultsError
from mockup.quantity.value import Unit
from mockup.words import (
    BOLT_WORDS,
    CLAY_WORDS,
    FASTENER_WORDS,
    GASKET_WORDS,
    LIFTER_WORDS,
    PISTON_WORDS,
    SPRING_WORDS,
)

LASH_AT = [(LashAt.VALVE, "at the valve"), (LashAt.PUSHROD, "at the pushrod side")]
TURNS = [("yes", "two full turns by hand"), ("no", "less, or not sure")]
CAPS = [("yes", "as it will run"), ("no", "not as it will run")]
WHEEL = [("yes", "checked against TDC"), ("no", "not checked, or none")]
EMPTY_IS_NONE = ("gasket_mm", "gasket_known_to_mm", "lash_mm", "shims_mm", "cam_advance_deg")
YES_OR_NO = ("two_turns", "caps_as_run", "wheel_checked")


class MockUpForm(UnitFormMixin, forms.Form):
    """The conditions of one mock-up."""

    gasket_state = forms.ChoiceField(choices=list(GASKET_WORDS.items()), label="Gasket in the mock-up")
    gasket_mm = LengthField(
        label="Its thickness", required=False, help_text="compressed if used, free if new; empty for none"
    )
    gasket_known_to_mm = LengthField(
        fine=True, label="Known to, ±", required=False, help_text="empty: what is usual of its kind", example_mm=0.0254
    )
    bolts = forms.ChoiceField(choices=list(BOLT_WORDS.items()), label="Head bolts", initial=Bolts.SNUGGED)
    lifters = forms.ChoiceField(choices=list(LIFTER_WORDS.items()), label="Lifters", initial=Lifters.BLOCKED)
    springs = forms.ChoiceField(choices=list(SPRING_WORDS.items()), label="Springs", initial=Springs.CHECKING)
    lash_mm = LengthField(label="Lash left in", required=False, help_text="empty for zero lash")
    lash_exhaust_mm = LengthField(label="Exhaust’s, if another", required=False, help_text="empty: the same")
    lash_at = forms.ChoiceField(choices=LASH_AT, label="Lash measured")
    shims_mm = LengthField(label="Base shims under the barrels", required=False, help_text="together; empty for none")
    clay = forms.ChoiceField(choices=list(CLAY_WORDS.items()), label="Clay")
    head = forms.CharField(max_length=80, required=False, label="Which head, on which bank")
    fasteners = forms.ChoiceField(choices=list(FASTENER_WORDS.items()), label="Fasteners", initial=Fasteners.OLD)
    blocked_how = forms.CharField(max_length=80, required=False, label="Lifters blocked how, marked how")
    rocker_ratio = forms.FloatField(required=False, label="Rockers in the mock-up", help_text="empty: the engine’s own")
    caps_as_run = forms.ChoiceField(choices=CAPS, label="Lash caps", initial="yes")
    cam_advance_deg = forms.FloatField(
        required=False, label="Cam in advance by, °", help_text="of where it will run; − behind"
    )
    wheel_checked = forms.ChoiceField(choices=WHEEL, label="Degree wheel", initial="no")
    pistons = forms.ChoiceField(choices=list(PISTON_WORDS.items()), label="Pistons", initial=PistonsIn.UNKNOWN)
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
        for name in EMPTY_IS_NONE:
            found[name] = found.get(name) or 0.0
        for name in YES_OR_NO:
            found[name] = found.get(name) == "yes"
        if not self.errors:
            try:
                _core(found)
            except FaultsError as error:
                for fault in error.faults:
                    self.add_error(fault.path, fault.message)
        return found


KINDS: dict[str, type[Any]] = {
    "gasket_state": GasketState,
    "bolts": Bolts,
    "lifters": Lifters,
    "springs": Springs,
    "lash_at": LashAt,
    "clay": Clay,
    "fasteners": Fasteners,
    "pistons": PistonsIn,
}


def _core(found: dict[str, Any]) -> CoreMockUp:
    return CoreMockUp(key="", **{name: KINDS[name](value) if name in KINDS else value for name, value in found.items()})


def initial_of(mockup: MockUp | None) -> dict[str, Any]:
    """What the form shows: the latest mock-up's conditions, so that only what changed is typed."""
    if mockup is None:
        return {}
    shown = {name: getattr(mockup, name) for name in MockUpForm.base_fields}
    shown |= {name: "yes" if shown[name] else "no" for name in YES_OR_NO}
    return shown | {name: shown[name] or None for name in EMPTY_IS_NONE}
