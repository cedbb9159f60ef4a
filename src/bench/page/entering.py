"""Taking what was typed into a sheet: each field read, checked and written by itself, or said to be wrong.

A sheet is a list of fields; a station says how each field's text becomes an entry. A field that cannot be
read keeps its typing and says why; the others are written all the same.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from bench.page.bench import Bench
from bench.shelf.models import ShelfInstrument
from mockup.faults import FaultsError
from mockup.quantity.typed import LengthError

Reader = Callable[[str], Any]
"""Makes a piece of the core of one field's text, to be written into the book; raises LengthError or FaultsError."""


@dataclass(frozen=True, slots=True)
class Wrong:
    """Typing that could not be taken: as typed, and what would be right; whether a field is left to show it at."""

    typed: str
    message: str
    at_a_field: bool = True


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a sheet. ``turn`` counts what was saved in it, so that a saved field comes back fresh.

    ``wanted`` fields are the ones Enter goes to. ``kind`` says how the echo reads it.
    """

    name: str
    label: str
    kind: str
    turn: int = 0
    wanted: bool = True
    wrong: Wrong | None = None


@dataclass(frozen=True, slots=True)
class Saved:
    """A reading that stands in the book: what it is struck out by, its words, and a question about it."""

    key: str
    text: str
    both: str
    record: str
    question: str = ""
    wrong: Wrong | None = None


def message_of(error: LengthError | FaultsError) -> str:
    """The words of an error, without the paths that only a file has."""
    if isinstance(error, FaultsError):
        return " ".join(fault.message for fault in error.faults)
    return str(error)


def questions_by_key(bench: Bench) -> dict[str, str]:
    """The report's questions about single readings, by the reading's key."""
    return {question.evidence: question.text for question in bench.report.questions if question.evidence}


def record_line(by: str, at: str, typed: str) -> str:
    """Who read it, when, and what was typed."""
    when = at[:16].replace("T", " ")
    return f"{by}, {when}, typed “{typed}”" if typed else f"{by}, {when}"


def instrument_choices(bench: Bench, *uses: str) -> list[tuple[str, str]]:
    """What may be read with: the built-in instruments of these uses, then the shop's own of them still on its list."""
    built_in = [(key, bench.instruments[key].name) for key in uses]
    own = ShelfInstrument.objects.filter(use__in=uses, off_since=None)
    return built_in + [(row.key, row.name) for row in own]
