"""The echo: how typing that is not saved yet was understood, in both units.

Each reader raises LengthError.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from mockup.quantity.shown import format_both, format_degrees, format_growth
from mockup.quantity.typed import parse_bench_length, parse_degrees, parse_dimension, parse_fine_length, parse_growth
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.typed_deck import Tool
from mockup.quantity.typed_gap import format_gap, parse_gap
from mockup.quantity.typed_train import Checker
from mockup.quantity.value import DeckSign, Unit


@dataclass(frozen=True, slots=True)
class Asked:
    """Text to be understood, with the build's unit and signs and the tool chosen on the form."""

    text: str
    unit: Unit
    sign: DeckSign
    tool: Tool
    checker: Checker


ECHOES: Mapping[str, Callable[[Asked], str]] = {
    "bench": lambda asked: format_both(parse_bench_length(asked.text, asked.unit), asked.unit),
    "gap": lambda asked: format_gap(parse_gap(asked.text, asked.unit), asked.unit),
    "growth": lambda asked: format_growth(parse_growth(asked.text, asked.unit), asked.unit),
    "fine": lambda asked: format_both(parse_fine_length(asked.text, asked.unit), asked.unit),
    "dimension": lambda asked: format_both(parse_dimension(asked.text.lstrip("-−"), asked.unit), asked.unit),
    "degrees": lambda asked: format_degrees(parse_degrees(asked.text)),
    "crank-intake": lambda asked: format_crank_angle(parse_crank_angle(asked.text, 180.0)),
    "crank-exhaust": lambda asked: format_crank_angle(parse_crank_angle(asked.text, -180.0)),
}
"""Echoes of plain lengths and angles; those of one kind of reading are declared with the kind."""
