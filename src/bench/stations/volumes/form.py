"""The final gasket's form."""

from typing import Any

from django import forms

from bench.page.fields import LengthField, UnitFormMixin
from mockup.engine.gasket import FinalGasket
from mockup.faults import FaultsError
from mockup.quantity.value import Unit


class GasketForm(UnitFormMixin, forms.Form):
    """The gasket the engine will run with."""

    name = forms.CharField(max_length=60, label="Gasket", required=False)
    compressed_mm = LengthField(label="Compressed")
    bore_mm = LengthField(big=True, label="Gasket bore")

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.read_in(unit)
        for field in self.fields.values():
            field.widget.attrs["class"] = "form-control"

    def clean(self) -> dict[str, Any]:
        """Hold the gasket against the core's ranges."""
        found = super().clean() or {}
        if not self.errors:
            try:
                FinalGasket(**found)
            except FaultsError as error:
                for fault in error.faults:
                    self.add_error(fault.path, fault.message)
        return found
