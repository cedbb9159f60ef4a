"""The margin sheet on one build: which sheet, and one limit changed at a time."""

from typing import Any

from django import forms

from bench.page.fields import LengthField, UnitFormMixin
from mockup.faults import FaultsError
from mockup.limits.margins import Edit, LimitName, MarginSheet
from mockup.limits.sheets import READY_MADE
from mockup.quantity.value import Unit


class SheetForm(forms.Form):
    """Which margin sheet the build is judged by."""

    sheet = forms.ChoiceField(choices=[(sheet.key, sheet.title) for sheet in READY_MADE.values()], label="Margin sheet")


class LimitForm(UnitFormMixin, forms.Form):
    """One limit changed for this build. Empty takes the limit away; the reason is asked for."""

    limit = forms.ChoiceField(choices=lambda: [(name, name.label) for name in LimitName], label="Limit")
    length = LengthField(label="New figure", required=False)
    reason = forms.CharField(max_length=200, label="Whose figure, or why")

    def __init__(self, unit: Unit, sheet: MarginSheet, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.sheet = sheet
        self.read_in(unit)
        if not self._wants_length():
            self.fields["length"] = forms.FloatField(label="New figure", required=False)
        self.dress()

    def _wants_length(self) -> bool:
        asked = self.data.get("limit", "")
        return asked not in LimitName or LimitName.named(asked).is_length

    def clean(self) -> dict[str, Any]:
        """Hold the changed sheet against the core's ranges."""
        found = super().clean() or {}
        if not self.errors:
            edit = Edit(found["length"], found["reason"])
            try:
                self.sheet.edited({**self.sheet.edits, LimitName.named(found["limit"]): edit})
            except FaultsError as error:
                self.add_error("length", " ".join(fault.message for fault in error.faults))
        return found
