"""Form fields for what people type at a bench; they hold millimetres or cubic centimetres."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from typing import Any, ClassVar

from django import forms

from mockup.base.faults import FaultsError
from mockup.quantity.shown import example_text, format_exact
from mockup.quantity.typed import (
    LengthError,
    parse_bench_length,
    parse_degrees,
    parse_dimension,
    parse_fine_length,
    parse_growth,
    parse_share,
)
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.typed_deck import parse_deck, parse_deck_reading
from mockup.quantity.typed_gap import GapTyped, parse_gap
from mockup.quantity.typed_units import Quantity
from mockup.quantity.value import DeckSign, Unit

_PARSERS: Mapping[str, Callable[[str, Unit], float]] = {
    "dimension": parse_dimension,
    "fine": parse_fine_length,
    "bench": parse_bench_length,
}


class TypedField(ABC, forms.CharField):
    """A figure typed as text; its fault is shown at the field."""

    @abstractmethod
    def parse(self, text: str) -> Any:
        """Return the figure that a text means; raises LengthError."""

    def clean(self, value: Any) -> Any:
        """Return the figure; None for an optional empty field."""
        text = super().clean(value)
        if not text:
            return None
        try:
            return self.parse(text)
        except LengthError as error:
            raise forms.ValidationError(str(error)) from error


class LengthField(TypedField):
    """A length: typed as text, cleaned to millimetres.

    ``big`` lengths take plain inches in an inch build.

    ``fine`` ones are so small that 0.5 is half a thou, and never half an inch. ``example_mm``: a length [mm] shown as
    an example in the build's unit, before any other help; where there is other help, or none is wanted, only if given.
    """

    def __init__(
        self,
        *,
        big: bool = False,
        fine: bool = False,
        signed: bool = False,
        example_mm: float | None = None,
        **kwargs: Any,
    ) -> None:
        self.big = big
        self.fine = fine
        self.signed = signed
        usual = None if "help_text" in kwargs else 95.25 if big else 0.9906
        self.own_help = kwargs.pop("help_text", "")
        self.example_mm = usual if example_mm is None else example_mm
        super().__init__(**kwargs)
        self.read_in(Unit.INCH)
        self.widget.attrs |= {"inputmode": "text", "autocomplete": "off", "data-understand": self.kind}

    def read_in(self, unit: Unit) -> None:
        """Read plain numbers in ``unit``, and show the example in it."""
        self.unit = unit
        example = "" if self.example_mm is None else example_text(self.example_mm, unit, big=self.big)
        self.help_text = "; ".join(filter(None, (example, self.own_help)))

    @property
    def kind(self) -> str:
        """The kind by which the echo reads this field."""
        return "dimension" if self.big else ("fine" if self.fine else "bench")

    def parse(self, text: str) -> Any:
        """Return millimetres."""
        negative = self.signed and text.strip()[:1] in ("-", "−")
        found = _PARSERS[self.kind](text.strip()[1:] if negative else text, self.unit)
        return -found if negative else found

    def prepare_value(self, value: Any) -> Any:
        """Return what the field shows: a stored length with its unit, or the typing as it was."""
        if isinstance(value, float):
            return (
                format_exact(value, self.unit).removesuffix(f" {self.unit}")
                if self.big
                else format_exact(value, self.unit)
            )
        return value


class QuantityField(TypedField):
    """A temperature, a mass or an area: typed in the build's unit or with its own."""

    def __init__(self, quantity: Quantity, **kwargs: Any) -> None:
        self.quantity = quantity
        super().__init__(max_length=40, **kwargs)
        self.read_in(Unit.INCH)
        self.widget.attrs |= {"inputmode": "text", "autocomplete": "off"}

    def read_in(self, unit: Unit) -> None:
        """Read plain numbers in ``unit``."""
        self.unit = unit

    def parse(self, text: str) -> float:
        """Return the figure in the core's unit."""
        return self.quantity.parse(text, self.unit)

    def prepare_value(self, value: Any) -> Any:
        """Return what the field shows: a stored figure with its unit, or the typing as it was."""
        return self.quantity.format(float(value), self.unit) if isinstance(value, float | int) else value


class GapField(LengthField):
    """A gap: a length, or between two feelers; cleaned to a GapTyped."""

    @property
    def kind(self) -> str:
        """The kind by which the echo reads this field."""
        return "gap"

    def parse(self, text: str) -> GapTyped:
        """Return the gap, with half the step of its feelers."""
        return parse_gap(text, self.unit)


class GrowthField(LengthField):
    """A growth when hot, either way, as ``+4 hot``; cleaned to millimetres."""

    @property
    def kind(self) -> str:
        """The kind by which the echo reads this field."""
        return "growth"

    def parse(self, text: str) -> float:
        """Return millimetres; negative shrinks."""
        return parse_growth(text, self.unit)

    def prepare_value(self, value: Any) -> Any:
        """Return what the field shows: a stored growth with its sign."""
        if not isinstance(value, float):
            return value
        return f"{'−' if value < 0 else '+'}{format_exact(abs(value), self.unit)} hot"


class NumberField(forms.FloatField):
    """A plain number, typed as text; a decimal comma is accepted."""

    def __init__(self, **kwargs: Any) -> None:
        kwargs.setdefault("widget", forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}))
        super().__init__(**kwargs)

    def clean(self, value: Any) -> Any:
        """Return the number; None for an optional empty field."""
        text = value.strip().replace("−", "-") if isinstance(value, str) else value
        if isinstance(text, str) and text.count(",") == 1 and "." not in text:
            text = text.replace(",", ".")
        return super().clean(text)


class ShareField(TypedField):
    """A share: typed in percent, cleaned to a plain number."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(max_length=40, **kwargs)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off"}

    def parse(self, text: str) -> float:
        """Return the share [1]."""
        return parse_share(text)


class LinesField(forms.CharField):
    """Lines of text, one item each: cleaned to a tuple."""

    def __init__(self, *, most: int = 20, longest: int = 200, **kwargs: Any) -> None:
        kwargs.setdefault("widget", forms.Textarea(attrs={"rows": 3}))
        super().__init__(**kwargs)
        self.most, self.longest = most, longest

    def prepare_value(self, value: Any) -> Any:
        """Return the lines as typed."""
        return "\n".join(value) if isinstance(value, tuple | list) else value

    def clean(self, value: Any) -> Any:
        """Return the lines that are not empty.

        Raises ValidationError for too many, or too long ones.
        """
        lines = tuple(line.strip() for line in str(super().clean(value) or "").splitlines() if line.strip())
        if len(lines) > self.most:
            raise forms.ValidationError(f"At most {self.most} lines.")
        if any(len(line) > self.longest for line in lines):
            raise forms.ValidationError(f"At most {self.longest} characters a line.")
        return lines


class DegreesField(TypedField):
    """An angle: typed as text, cleaned to degrees."""

    def __init__(self, **kwargs: Any) -> None:
        kwargs.setdefault("help_text", "degrees, as 27.5")
        super().__init__(**kwargs)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off", "data-understand": "degrees"}

    def parse(self, text: str) -> float:
        """Return degrees."""
        return parse_degrees(text)


class CrankAngleField(TypedField):
    """A crank angle: typed with its letters, cleaned to signed degrees about overlap TDC."""

    def __init__(self, *, bdc_deg: float, **kwargs: Any) -> None:
        self.bdc_deg = bdc_deg
        kwargs.setdefault("help_text", "as 12 BTDC or 54 ABDC")
        super().__init__(**kwargs)
        kind = "crank-intake" if bdc_deg > 0 else "crank-exhaust"
        self.widget.attrs |= {"autocomplete": "off", "data-understand": kind}

    def parse(self, text: str) -> float:
        """Return signed degrees."""
        return parse_crank_angle(text, self.bdc_deg)

    def prepare_value(self, value: Any) -> Any:
        """Return what the field shows: an angle with its letters, or the typing as it was."""
        return format_crank_angle(value) if isinstance(value, float) else value


class DeckField(TypedField):
    """A deck clearance: typed with its direction, cleaned to millimetres, positive in the hole."""

    def __init__(self, *, sign: DeckSign = DeckSign.DOWN_POSITIVE, **kwargs: Any) -> None:
        super().__init__(max_length=40, **kwargs)
        self.sign = sign
        self.read_in(Unit.INCH)
        self.widget.attrs |= {"autocomplete": "off", "data-understand": "deck"}

    def read_in(self, unit: Unit) -> None:
        """Read plain numbers in ``unit``."""
        self.unit = unit

    def parse(self, text: str) -> Any:
        """Return the clearance [mm]."""
        return parse_deck(text, self.unit, self.sign)


class DeckReadingField(DeckField):
    """A deck clearance as read, also by feelers under a straight edge; cleaned to a GapTyped."""

    def parse(self, text: str) -> GapTyped:
        """Return the clearance, with half the step of its feelers."""
        return parse_deck_reading(text, self.unit, self.sign)


class UnitFormMixin:
    """A form whose lengths are read in one unit, ``read_as``."""

    fields: dict[str, forms.Field]
    read_as: Unit

    def read_in(self, unit: Unit) -> None:
        """Read every length of the form in ``unit``."""
        self.read_as = unit
        for field in self.fields.values():
            if isinstance(field, LengthField | DeckField | QuantityField):
                field.read_in(unit)

    def dress(self) -> None:
        """Give every field the look of its kind."""
        for field in self.fields.values():
            select = isinstance(field.widget, forms.Select)
            field.widget.attrs["class"] = "form-select" if select else "form-control"


class CoreFormMixin:
    """A form that makes one piece of the core; errors are shown at their fields.

    ``CORE``: the class it makes; ``FIXED``: what it is given besides the fields; ``item``: the result.
    """

    CORE: ClassVar[type[Any]]
    FIXED: ClassVar[dict[str, Any]] = {}
    fields: dict[str, forms.Field]
    item: Any

    def __init__(self, unit: Unit, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.read_in(unit)  # type: ignore[attr-defined]
        self.dress()  # type: ignore[attr-defined]

    def for_core(self, found: dict[str, Any]) -> dict[str, Any]:
        """Return the cleaned fields as the core's class takes them."""
        return found

    def clean(self) -> dict[str, Any]:
        """Validate the fields by the core."""
        found: dict[str, Any] = super().clean() or {}  # type: ignore[misc]
        if not self.errors:  # type: ignore[attr-defined]
            try:
                self.item = self.CORE(**self.for_core(found), **self.FIXED)
            except FaultsError as error:
                for fault in error.faults:
                    name = fault.path if fault.path in self.fields else None
                    self.add_error(name, fault.message)  # type: ignore[attr-defined]
        return found
