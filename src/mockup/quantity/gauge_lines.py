"""The lines a gauge sends over a serial cable: three open formats, and described ones.

A format is data, not code: its shape, its separator, and the columns of number and unit. The result is what a person
would have typed.
"""

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.quantity.fields import Name, Text, Within

LONGEST_LINE = 400
MOST_COLUMNS = 40
UNITS = {"": "", "in": "in", "inch": "in", '"': "in", "mm": "mm", "thou": "thou", "th": "thou"}
BAUDS = (300, 600, 1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)
_PLAIN = re.compile(r"^(?P<number>[+-]?[\d.,]+)\s*(?P<unit>[a-z\"]*)$", re.IGNORECASE)
_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)$")


class Shape(StrEnum):
    """The layout of a line."""

    PLAIN = "number and unit"
    COLUMNS = "columns"
    JSON = "JSON"


class Between(StrEnum):
    """The separator between columns."""

    COMMA = "comma"
    SEMICOLON = "semicolon"
    TAB = "tab"
    BLANK = "blanks"


MARKS = {Between.COMMA: ",", Between.SEMICOLON: ";", Between.TAB: "\t", Between.BLANK: None}


@dataclass(frozen=True, slots=True, kw_only=True)
class GaugeWay:
    """One format of a reading as a line of text.

    ``value_at`` and ``unit_at``: the column, counted from 1, or the name in JSON; ``unit_at`` is "" where lines have no
    unit. ``unit``: in, mm or thou of a number without a unit; "" means the build's unit. ``baud``: speed of the port
    [1]. Raises FaultsError.
    """

    name: Name
    shape: Shape = Shape.PLAIN
    between: Between = Between.COMMA
    value_at: Annotated[str, Text(40)] = "1"
    unit_at: Annotated[str, Text(40)] = ""
    unit: Annotated[str, Text(4)] = ""
    baud: Annotated[int, Within(300, 115200, "A speed of a serial port.")] = 9600

    def __post_init__(self) -> None:
        found = []
        if not self.name.strip():
            found.append(Fault("name", "Give it a name."))
        if self.unit not in ("", "in", "mm", "thou"):
            found.append(Fault("unit", "in, mm, thou or nothing."))
        if self.baud not in BAUDS:
            found.append(Fault("baud", f"One of {', '.join(map(str, BAUDS))}."))
        if self.shape is Shape.COLUMNS:
            for field in ("value_at", "unit_at"):
                text = getattr(self, field)
                if not (text == "" and field == "unit_at") and not _is_column(text):
                    found.append(Fault(field, f"A column from 1 to {MOST_COLUMNS}."))
        if self.shape is Shape.JSON and not self.value_at.strip():
            found.append(Fault("value_at", "The name of the number."))
        refuse(found)

    @property
    def example(self) -> str:
        """Return an example line."""
        if self.shape is Shape.PLAIN:
            return "0.1120" if self.unit else "0.1120 in"
        if self.shape is Shape.JSON:
            said = {self.value_at: 0.112} | ({self.unit_at: "in"} if self.unit_at else {})
            return json.dumps(said)
        last = max(int(self.value_at), int(self.unit_at or 0))
        cells = ["…"] * last
        cells[int(self.value_at) - 1] = "0.1120"
        if self.unit_at:
            cells[int(self.unit_at) - 1] = "in"
        return (MARKS[self.between] or " ").join(cells)


def read_line(text: str, way: GaugeWay) -> str:
    """Return the reading in a line as a person would type it: ``0.1120 in``.

    Raises FaultsError without a number.
    """
    line = text.strip()
    refuse([] if 0 < len(line) <= LONGEST_LINE else [Fault("line", f"A line of 1 to {LONGEST_LINE} characters.")])
    number, unit = {Shape.PLAIN: _plain, Shape.COLUMNS: _columns, Shape.JSON: _json}[way.shape](line, way)
    shown = line[:60]
    # No gauge separates thousands, so a comma is a decimal comma.
    number = number.strip().replace(",", ".").removeprefix("+")
    refuse([] if _NUMBER.match(number) else [Fault("line", f"“{shown}”: no number where “{way.name}” expects one.")])
    word = unit.strip().lower() or way.unit
    refuse([] if word in UNITS else [Fault("line", f"“{shown}”: “{word[:12]}” is not a unit of length.")])
    return f"{number} {UNITS[word]}".strip()


def _is_column(text: str) -> bool:
    return text.isascii() and text.isdecimal() and 1 <= int(text[:4]) <= MOST_COLUMNS


def _plain(line: str, way: GaugeWay) -> tuple[str, str]:  # noqa: ARG001, same signature as the other readers
    found = _PLAIN.match(line)
    return (found["number"], found["unit"]) if found else ("", "")


def _columns(line: str, way: GaugeWay) -> tuple[str, str]:
    cells = line.split(MARKS[way.between])

    def at(column: str) -> str:
        place = int(column) - 1 if column else len(cells)
        return cells[place] if place < len(cells) else ""

    return at(way.value_at), at(way.unit_at)


def _json(line: str, way: GaugeWay) -> tuple[str, str]:
    try:
        said = json.loads(line, parse_float=str, parse_int=str)
    except (ValueError, RecursionError):
        return "", ""
    if not isinstance(said, dict):
        return "", ""
    return tuple(str(said.get(name, "")) if name else "" for name in (way.value_at, way.unit_at))  # type: ignore[return-value]


_BARE = re.compile(r"^[+\-−]?(?:[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)$")
_BEFORE_WORDS = re.compile(r"^(?P<number>[0-9.,]+)\s*(?P<words>[a-z ]+)$", re.IGNORECASE)


def is_bare(text: str) -> bool:
    """Return whether a gauge's text is a number without a unit or a word."""
    return bool(_BARE.match(text.strip()))


def with_unit(text: str, unit: str) -> str:
    """Return a gauge's text with its unit behind the number: ``6 down`` is ``6 mm down``.

    Raises FaultsError where there is not exactly one number for the unit.
    """
    text = " ".join(text.split())
    if not unit:
        return text
    found = _BEFORE_WORDS.match(text)
    if is_bare(text):
        return f"{text} {unit}"
    words = found["words"].strip().lower() if found else ""
    refuse([] if found and words not in UNITS else [Fault("unit", f"“{text[:40]}” has no place for the unit {unit}.")])
    assert found is not None
    return f"{found['number']} {unit} {words}"


PLAIN, COLUMNS, OBJECT = "plain", "columns", "json"
READY_MADE: Mapping[str, GaugeWay] = {
    PLAIN: GaugeWay(name="a number and its unit"),
    COLUMNS: GaugeWay(
        name="time; number; unit", shape=Shape.COLUMNS, between=Between.SEMICOLON, value_at="2", unit_at="3"
    ),
    OBJECT: GaugeWay(name="JSON, a line a reading", shape=Shape.JSON, value_at="value", unit_at="unit"),
}
"""Open formats that need no description."""
