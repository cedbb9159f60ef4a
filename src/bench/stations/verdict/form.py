"""The margin sheet on one build: which sheet, and one limit changed at a time."""

from typing import Any

from django import forms

from bench.builds.own_sheets import own_sheets
from bench.page.fields import LengthField, UnitFormMixin
from mockup.faults import FaultsError
from mockup.limits.margins import Edit, LimitName, MarginSheet
from mockup.limits.sheets import READY_MADE
from mockup.quantity.typed import LengthError, parse_window
from mockup.quantity.value import Unit

WINDOWS = {
    "quench-window": (LimitName.named("quench_low"), LimitName.named("quench_high")),
    "ratio-window": (LimitName.named("ratio_low"), LimitName.named("ratio_high")),
}
"""Limits that have two ends, said at once."""
WINDOWS_SAID = [("quench-window", "Quench, aim and window"), ("ratio-window", "Compression ratio, aim and window")]


class SheetForm(forms.Form):
    """Which margin sheet the build is judged by."""

    sheet = forms.ChoiceField(label="Margin sheet")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        ready_made = [(sheet.key, sheet.title) for sheet in READY_MADE.values()]
        self.fields["sheet"] = forms.ChoiceField(choices=[*ready_made, *own_sheets()], label="Margin sheet")


class LimitForm(UnitFormMixin, forms.Form):
    """One limit changed for this build. Empty takes the limit away; the reason is asked for."""

    limit = forms.ChoiceField(
        choices=lambda: [*WINDOWS_SAID, *((name, name.label) for name in LimitName)], label="Limit"
    )
    length = LengthField(label="New figure", required=False, help_text="a window as 52 ± 3, or 49 to 55")
    reason = forms.CharField(max_length=200, label="Whose figure, or why")

    def __init__(self, unit: Unit, sheet: MarginSheet, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.sheet = sheet
        self.read_in(unit)
        self.window = WINDOWS.get(self.data.get("limit", ""))
        if self.window:
            self.fields["length"] = forms.CharField(label="New figure", required=False, max_length=60)
        elif not self._wants_length():
            self.fields["length"] = forms.FloatField(label="New figure", required=False)
        self.dress()

    @property
    def edits(self) -> dict[LimitName, Edit]:
        """The limits as they are to be: one, or both ends of a window."""
        found = self.cleaned_data
        if not self.window:
            return {LimitName.named(found["limit"]): Edit(found["length"], found["reason"])}
        low, high = self._ends(found["length"])
        return {name: Edit(end, found["reason"]) for name, end in zip(self.window, (low, high), strict=True)}

    def _ends(self, typed: str) -> tuple[float | None, float | None]:
        assert self.window is not None
        return parse_window(typed, self.read_as, is_length=self.window[0].is_length) if typed.strip() else (None, None)

    def _wants_length(self) -> bool:
        asked = self.data.get("limit", "")
        return asked not in LimitName or LimitName.named(asked).is_length

    def clean(self) -> dict[str, Any]:
        """Hold the changed sheet against the core's ranges."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.sheet.edited({**self.sheet.edits, **self.edits})
            except FaultsError as error:
                self.add_error("length", " ".join(fault.message for fault in error.faults))
            except LengthError as error:
                self.add_error("length", str(error))
        return found
