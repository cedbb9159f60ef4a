"""Read what was typed into an entry form: each field alone, written or reported.

A form is a list of fields; a station says how each field's text becomes an entry. A field that cannot be read keeps its
text and says why; the others are still written.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from web.builds.assemble import own_instruments
from web.page.build_page import BuildPage

LONGEST_TYPED = 200
"""The longest text of one field; longer text is not even read."""
Reader = Callable[[str], Any]
"""Makes a piece of the core from one field's text for the log; raises LengthError or FaultsError."""


@dataclass(frozen=True, slots=True)
class Wrong:
    """Typing that was refused: as typed, what would be right, whether a field shows it."""

    typed: str
    message: str
    at_a_field: bool = True


@dataclass(frozen=True, slots=True)
class Field:
    """One entry field, the only one at its place: it takes one reading after another.

    ``wants``: how many readings are still asked for here; Enter goes to fields that want one. ``kind``: how the echo
    reads it. ``mockup``: the letter of the mock-up its readings go to, empty where they belong to none. ``more``: names
    of further fields of the place, for a whole form sent without script.
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
    """A reading in the log: the key to strike it out, its words, and a question about it."""

    key: str
    text: str
    both: str
    record: str
    question: str = ""
    wrong: Wrong | None = None


def questions_by_key(page: BuildPage) -> dict[str, str]:
    """Return the report's questions about single readings, by the reading's key."""
    return {question.evidence: question.text for question in page.report.questions if question.evidence}


def record_line(by: str, at: str, typed: str) -> str:
    """Return who read it, when, and what was typed."""
    when = at[:16].replace("T", " ")
    return f"{by}, {when}, typed “{typed}”" if typed else f"{by}, {when}"


def instrument_choices(page: BuildPage, *uses: str) -> list[tuple[str, str]]:
    """Return the instruments to choose from: built-in ones of these uses, then the shop's."""
    built_in = [(key, page.instruments[key].name) for key in uses]
    own = (row for row in own_instruments() if row.use in uses and row.off_since is None)
    return built_in + [(row.key, row.name) for row in own]
