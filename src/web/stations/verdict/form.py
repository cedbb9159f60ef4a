"""The limits of one build: which set, and one limit changed at a time."""

import re
from typing import Any

from django import forms

from mockup.base.faults import FaultsError
from mockup.limits.limit_set import Edit, LimitName, LimitSet
from mockup.limits.schools import READY_MADE
from mockup.quantity.typed import LengthError, parse_window
from mockup.quantity.value import Unit
from web.builds.own_engines_and_limits import own_limits
from web.page.fields import LengthField, ShareField, UnitFormMixin

A_RANGE = re.compile(r"\bto\b|–")
LONGEST_REASON = 200


def _windows() -> dict[str, tuple[LimitName, LimitName]]:
    """Return the limits with two ends, entered together, by the key of their choice."""
    return {f"{high.upper_of}-{high}": (high.upper_of, high) for high in LimitName.all() if high.upper_of}


def _choices() -> list[tuple[str, str]]:
    windows = [(key, f"{high.window}, aim and window") for key, (_, high) in _windows().items()]
    return [*windows, *((str(name), name.label) for name in LimitName.all())]


class LimitsForm(forms.Form):
    """The set of limits the build is judged by."""

    limits = forms.ChoiceField(label="Limits")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        ready_made = [(limits.key, limits.title) for limits in READY_MADE.values()]
        self.fields["limits"] = forms.ChoiceField(choices=[*ready_made, *own_limits()], label="Limits")


class MinimumField(LengthField):
    """A minimum; typed as a range, ``65 to 80``, its lower end is what a figure is judged by."""

    def parse(self, text: str) -> float:
        """Return the minimum [mm]."""
        if A_RANGE.search(text):
            return parse_window(text, self.unit, is_length=True)[0]
        found: float = super().parse(text)
        return found


class LimitForm(UnitFormMixin, forms.Form):
    """One limit changed for this build. Empty removes the limit; a reason is required."""

    limit = forms.ChoiceField(choices=_choices, label="Limit")
    length = LengthField(label="New figure", required=False, help_text="a window as 52 ± 3, or 49 to 55")
    reason = forms.CharField(max_length=200, label="Whose figure, or why")

    def __init__(self, unit: Unit, limits: LimitSet, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.limits = limits
        self.read_in(unit)
        asked = self.data.get("limit", "")
        self.window = _windows().get(asked)
        name = LimitName.named(asked) if asked in LimitName.all() else None
        if self.window:
            self.fields["length"] = forms.CharField(label="New figure", required=False, max_length=60)
        elif name and name.unit.scales:
            self.fields["length"] = ShareField(label="New figure", required=False, help_text=f"as 3 % {name.unit}")
        elif name and name.is_length and not name.upper_of:
            self.fields["length"] = MinimumField(
                label="New figure", required=False, help_text="or a range, as 65 to 80"
            )
            self.read_in(unit)
        elif name and not name.is_length:
            self.fields["length"] = forms.FloatField(label="New figure", required=False)
        self.dress()

    @property
    def edits(self) -> dict[LimitName, Edit]:
        """Return the changed limits: one, or both ends of a window."""
        found = self.cleaned_data
        if not self.window:
            typed = self.data.get("length", "").strip()
            asked = (
                f"{found['reason']} (asked as {typed})"[:LONGEST_REASON] if A_RANGE.search(typed) else found["reason"]
            )
            return {LimitName.named(found["limit"]): Edit(found["length"], asked)}
        low, high = self._ends(found["length"])
        return {name: Edit(end, found["reason"]) for name, end in zip(self.window, (low, high), strict=True)}

    def _ends(self, typed: str) -> tuple[float | None, float | None]:
        assert self.window is not None
        return parse_window(typed, self.read_as, is_length=self.window[0].is_length) if typed.strip() else (None, None)

    def clean(self) -> dict[str, Any]:
        """Check the changed limits against the core's ranges."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.limits.edited({**self.limits.edits, **self.edits})
            except FaultsError as error:
                self.add_error("length", " ".join(fault.message for fault in error.faults))
            except LengthError as error:
                self.add_error("length", str(error))
        return found
