"""Taking what was typed into a sheet: each field read, checked and written by itself, or said to be wrong.

A sheet is a list of fields; a station says how each field's text becomes an entry. A field that cannot be
read keeps its typing and says why; the others are written all the same.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from bench.builds.assemble import own_instruments
from bench.page.bench import Bench

LONGEST_TYPED = 200
"""Nobody types more into one field of a sheet; a longer text is not even read."""
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
    """One field of a sheet, the only one of its place: it takes one reading after another.

    ``wants``: how many readings are still asked for here; Enter goes to fields that want one. ``kind`` says how the
    echo reads it. ``mockup``: the letter of the mock-up that its readings go to, empty where they belong to none.
    ``more``: names of further fields of the place, for a sheet that is sent whole, without script.
    """

    name: str
    label: str
    kind: str
    wants: int = 1
    wrong: Wrong | None = None
    mockup: str = ""
    more: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Saved:
    """A reading that stands in the book: what it is struck out by, its words, and a question about it."""

    key: str
    text: str
    both: str
    record: str
    question: str = ""
    wrong: Wrong | None = None


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
    own = (row for row in own_instruments() if row.use in uses and row.off_since is None)
    return built_in + [(row.key, row.name) for row in own]
