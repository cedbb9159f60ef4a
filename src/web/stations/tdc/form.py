"""The form of one pair of wheel readings."""

from typing import Any

from django import forms

from mockup.base.faults import FaultsError
from mockup.quantity.value import Unit
from mockup.readings.tdc import TdcMethod, TdcReading
from web.page.fields import DegreesField, LengthField, UnitFormMixin

METHODS = [(TdcMethod.STOP, "positive stop"), (TdcMethod.DROP, "equal drop on an indicator")]


class TdcForm(UnitFormMixin, forms.Form):
    """One pair: the wheel before TDC and after it, at the same piston height."""

    method = forms.ChoiceField(choices=METHODS, label="By")
    before_deg = DegreesField(label="Wheel before TDC")
    after_deg = DegreesField(label="Wheel after TDC")
    drop_mm = LengthField(label="Piston down, if known", required=False)
    instrument = forms.ChoiceField(label="Indicator")
    wheel_known_to_deg = DegreesField(
        label="Wheel read to, ±", required=False, help_text="empty: a wheel read to half a degree"
    )

    def __init__(self, unit: Unit, instruments: list[tuple[str, str]], *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["instrument"] = forms.ChoiceField(choices=instruments, label="Indicator")
        self.read_in(unit)
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Check the pair by the core."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.item = TdcReading(
                    key="",
                    **(
                        found
                        | {
                            "method": TdcMethod(found["method"]),
                            "wheel_known_to_deg": found.get("wheel_known_to_deg") or 0.0,
                        }
                    ),
                )
            except FaultsError as error:
                for fault in error.faults:
                    self.add_error(fault.path, fault.message)
        return found
