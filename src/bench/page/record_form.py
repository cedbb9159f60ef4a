"""Forms made of a record of the core: its fields, what they may be and what they are when left empty come from there.

A form says only what a person reads: labels, help, words for choices.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, ClassVar

from django import forms

from bench.page.fields import LengthField, UnitFormMixin
from mockup.faults import FaultsError
from mockup.quantity.fields import Held, Measure, Text, flat, flat_fields, from_flat


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What a form says of one field: its label, help, and words for what may be chosen (True and False for yes or no).

    ``big``, ``fine``, ``signed``, ``example_mm``: how a length is typed. ``initial``: what stands there at first, where
    that is not what the record has when nothing is said. ``shown_empty``: nothing stands for that, and is shown empty.
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


def _field(held: Held, said: Said) -> forms.Field:
    common: dict[str, Any] = {"label": said.label, "required": held.is_required}
    if held.measure is Measure.LENGTH:
        how: dict[str, Any] = {"big": said.big, "fine": said.fine, "signed": said.signed, "example_mm": said.example_mm}
        return LengthField(**how | common | ({"help_text": said.help_text} if said.help_text else {}))
    common["help_text"] = said.help_text
    if isinstance(held.holds, type) and issubclass(held.holds, StrEnum):
        choices = list(said.words.items()) or [(one, str(one)) for one in held.holds]
        # What nobody said is an answer of its own, and the less favourable one; all else is chosen.
        unsaid = held.default == "not said"
        return forms.ChoiceField(choices=choices, **common | {"required": not unsaid})
    if held.holds is bool:
        choices = [("yes" if key else "no", words) for key, words in said.words.items()]
        return forms.ChoiceField(choices=choices, **common | {"required": False})
    if held.holds is str:
        text = held.mark(Text)
        return forms.CharField(max_length=text.most if text else None, **common)
    if held.holds is int and not held.several:
        return forms.IntegerField(**common | {"required": not held.optional})
    return forms.FloatField(**common | {"required": held.is_required})


class RecordForm(UnitFormMixin, forms.Form):
    """A form that makes one record.

    ``CORE``: its class; ``SAID``: its fields by their names, nested ones with the name of what they are in before them;
    ``GIVEN``: what is not asked for. ``record``: what was made.
    """

    CORE: ClassVar[type[Any]]
    SAID: ClassVar[Mapping[str, Said]]
    GIVEN: ClassVar[Mapping[str, Any]] = {}
    record: Any

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        held = flat_fields(self.CORE)
        for name, said in self.SAID.items():
            if name not in self.fields:
                self.fields[name] = _field(held[name], said)
                if not held[name].is_required:
                    self.initial.setdefault(name, _as_shown(held[name].default, said))

    def clean(self) -> dict[str, Any]:
        """Make the record; a fault of the core stands at the field it came from."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.record = from_flat(self.CORE, {**self.GIVEN, **self.for_record(found)})
            except FaultsError as error:
                self.show_faults(error)
        return found

    def for_record(self, found: dict[str, Any]) -> dict[str, Any]:
        """The cleaned fields as the record has them: what was left empty is what it is when nothing is said."""
        held, kept = flat_fields(self.CORE), {}
        for name in self.SAID:
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
        """Put the core's faults at the fields they came from."""
        for fault in error.faults:
            name = fault.path.replace(".", "_")
            self.add_error(name if name in self.fields else None, fault.message)

    @classmethod
    def shown(cls, record: Any) -> dict[str, Any]:
        """A record as its form shows it."""
        values = flat(record)
        return {name: _as_shown(values[name], said) for name, said in cls.SAID.items()}


def _as_shown(value: Any, said: Said) -> Any:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None or (said.shown_empty and not value) else value
