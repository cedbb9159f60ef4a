"""Taking what was typed into a sheet: each field read, checked and written by itself, or said to be wrong.

A sheet is a list of fields; a station says how each field's text becomes an entry. A field that cannot be
read keeps its typing and says why; the others are written all the same.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from bench.builds import services
from bench.builds.models import Entry
from bench.page.bench import Bench, token_of
from bench.shelf.models import ShelfInstrument
from bench.shops.access import person_of
from mockup.faults import FaultsError
from mockup.quantity.typed import LengthError

Reader = Callable[[str], Any]
"""Makes a piece of the core of one field's text, to be written into the book; raises LengthError or FaultsError."""

LONGEST_KEPT = 200
LONGEST_NUMBER = 18
"""Digits of a row number that PostgreSQL can hold."""


@dataclass(frozen=True, slots=True)
class Wrong:
    """Typing that could not be taken: as typed, and what would be right."""

    typed: str
    message: str


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


def take(request: HttpRequest, bench: Bench, readers: Mapping[str, Reader], *kinds: str) -> dict[str, Wrong]:
    """Write what was posted, or strike out what was posted to be, if it is an entry of one of ``kinds``.

    Returns what was wrong, by field name.
    """
    wrong = _strike(request, bench, kinds) if "strike" in request.POST else _write(request, bench, readers)
    bench.refresh()
    return wrong


def _write(request: HttpRequest, bench: Bench, readers: Mapping[str, Reader]) -> dict[str, Wrong]:
    wrong = {}
    typed = {name: text for name in readers if (text := request.POST.get(name, "").strip())}
    # The token belongs to one saving of one field; a whole sheet sent without script has none.
    token: UUID | None = token_of(request) if len(typed) == 1 else None
    for name, text in typed.items():
        try:
            services.write(bench.build, readers[name](text), person_of(request), typed=text, token=token)
        except (LengthError, FaultsError) as error:
            wrong[name] = Wrong(text[:LONGEST_KEPT], message_of(error))
    return wrong


def _strike(request: HttpRequest, bench: Bench, kinds: Collection[str]) -> dict[str, Wrong]:
    key, reason = request.POST["strike"], request.POST.get("reason", "")
    kind, _, number = key.rpartition("-")
    if kind not in kinds or not number.isdecimal() or len(number) > LONGEST_NUMBER:
        raise Http404(key)
    entry: Entry = get_object_or_404(Entry, kind=kind, pk=int(number), build=bench.build)
    try:
        services.strike(entry, person_of(request), reason)
    except FaultsError as error:
        return {f"strike-{key}": Wrong(reason, message_of(error))}
    return {}


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
