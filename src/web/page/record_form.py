"""Forms made from a record of the core, which defines their fields, ranges and defaults.

A form only adds what a person reads: labels, help, words for choices.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, ClassVar

from django import forms

from mockup.base.faults import FaultsError
from mockup.quantity.fields import FieldInfo, Measure, Text, flat, flat_fields, from_flat
from web.page.fields import LengthField, UnitFormMixin


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldWords:
    """What a form adds to a field: label, help, words for choices.

    ``big``, ``fine``, ``signed``, ``example_mm``: how a length is typed. ``initial``: the initial value where it
    differs from the record's default. ``shown_empty``: the value shown as empty.
    """

    label: str
    help_text: str = ""
    words: Mapping[Any, str] = field(default_factory=dict)
    big: bool = False
    fine: bool = False
    signed: bool = False
    example_mm: float | None = None
    initial: Any = None
    shown_empty: bool = False


def _choice(value: StrEnum) -> str:
    # Files and rows say "not said" since their first version; people read the usual word.
    return "not stated" if value == "not said" else str(value)


def _field(held: FieldInfo, words: FieldWords) -> forms.Field:
    common: dict[str, Any] = {"label": words.label, "required": held.is_required}
    if held.measure is Measure.LENGTH:
        how: dict[str, Any] = {
            "big": words.big,
            "fine": words.fine,
            "signed": words.signed,
            "example_mm": words.example_mm,
        }
        return LengthField(**how | common | ({"help_text": words.help_text} if words.help_text else {}))
    common["help_text"] = words.help_text
    if isinstance(held.holds, type) and issubclass(held.holds, StrEnum):
        choices = list(words.words.items()) or [(one, _choice(one)) for one in held.holds]
        # "Not stated" is an answer of its own, and the less favourable one; everything else is chosen.
        may_be_unstated = held.default == "not said"
        return forms.ChoiceField(choices=choices, **common | {"required": not may_be_unstated})
    if held.holds is bool:
        choices = [("yes" if key else "no", text) for key, text in words.words.items()]
        return forms.ChoiceField(choices=choices, **common | {"required": False})
    if held.holds is str:
        text = held.mark(Text)
        return forms.CharField(max_length=text.most if text else None, **common)
    if held.holds is int and not held.several:
        return forms.IntegerField(**common | {"required": not held.optional})
    return forms.FloatField(**common | {"required": held.is_required})


class RecordForm(UnitFormMixin, forms.Form):
    """A form that makes one record.

    ``CORE``: its class; ``FIELD_WORDS``: its fields by name, nested ones prefixed; ``GIVEN``: values not asked for.
    ``record``: the result.
    """

    CORE: ClassVar[type[Any]]
    FIELD_WORDS: ClassVar[Mapping[str, FieldWords]]
    GIVEN: ClassVar[Mapping[str, Any]] = {}
    record: Any

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        held = flat_fields(self.CORE)
        for name, words in self.FIELD_WORDS.items():
            if name not in self.fields:
                self.fields[name] = _field(held[name], words)
                if not held[name].is_required:
                    self.initial.setdefault(name, _as_shown(held[name].default, words))

    def clean(self) -> dict[str, Any]:
        """Make the record; a fault of the core is shown at its field."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.record = from_flat(self.CORE, {**self.GIVEN, **self.for_record(found)})
            except FaultsError as error:
                self.show_faults(error)
        return found

    def for_record(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return the cleaned fields as the record has them; empty ones take the default."""
        held, kept = flat_fields(self.CORE), {}
        for name in self.FIELD_WORDS:
            if name not in self.fields:
                continue
            value, one = found.get(name), held[name]
            if one.holds is bool:
                kept[name] = value == "yes" if value else one.default
            elif value in (None, ""):
                if not one.is_required:
                    kept[name] = one.default
            else:
                kept[name] = value if one.several else one.holds(value)
        return kept

    def show_faults(self, error: FaultsError) -> None:
        """Show the core's faults at their fields."""
        for fault in error.faults:
            name = fault.path.replace(".", "_")
            self.add_error(name if name in self.fields else None, fault.message)

    @classmethod
    def shown(cls, record: Any) -> dict[str, Any]:
        """Return a record as its form shows it."""
        values = flat(record)
        return {name: _as_shown(values[name], words) for name, words in cls.FIELD_WORDS.items()}


def _as_shown(value: Any, words: FieldWords) -> Any:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None or (words.shown_empty and not value) else value
