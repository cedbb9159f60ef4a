"""Take what was posted without script: a whole sheet, field by field, or an entry to be struck out.

A field that cannot be read keeps its typing and says why; the others are written all the same.
"""

import re
from collections.abc import Collection, Mapping
from uuid import UUID

from django.contrib import messages
from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from bench.builds import lines, services
from bench.builds.models import Entry
from bench.page.bench import Bench, token_of
from bench.page.entering import LONGEST_TYPED, Reader, Wrong
from bench.shops.access import person_of
from mockup.faults import FaultsError, message_of
from mockup.quantity.typed import LengthError
from mockup.reading_kinds import READING_KINDS
from mockup.stations import Station

LONGEST_KEPT = 200
PLACES = re.compile(r"(-[a-z0-9]+)+$")
"""The places at the end of a field's name, after what is read there."""
NO_SUCH_FIELD = "Not saved: this engine has no such place now. Was it changed meanwhile?"
LONGEST_NUMBER = 18
"""Digits of a row number that PostgreSQL can hold."""


def take_readings(
    request: HttpRequest, bench: Bench, station: Station, readers: Mapping[str, Reader], *others: str
) -> dict[str, Wrong]:
    """Write the readings of a station that were posted, or strike one out, or a line of one of the ``others``.

    Returns what was wrong, by field name.
    """
    kinds = [kind.name for kind in READING_KINDS if kind.station is station]
    return take(request, bench, readers, *kinds, *others)


def take(request: HttpRequest, bench: Bench, readers: Mapping[str, Reader], *kinds: str) -> dict[str, Wrong]:
    """Write what was posted, or strike out what was posted to be, if it is an entry of one of ``kinds``.

    Returns what was wrong, by field name.
    """
    if "undo" in request.POST:
        wrong = _undo(request, bench, kinds)
    elif "strike" in request.POST:
        wrong = _strike(request, bench, kinds)
    else:
        wrong = _write(request, bench, readers, kinds)
    bench.refresh()
    return wrong


def _write(
    request: HttpRequest, bench: Bench, readers: Mapping[str, Reader], kinds: Collection[str]
) -> dict[str, Wrong]:
    wrong = _not_taken(request, readers, kinds)
    typed = {name: text for name in readers if (text := request.POST.get(name, "").strip())}
    # The token belongs to one saving of one field; a whole sheet sent without script has none.
    token: UUID | None = token_of(request) if len(typed) == 1 else None
    if not typed:
        return wrong
    # A whole sheet is one change of the build: evaluated once, at its end.
    with services.locked(bench.build):
        wrong |= _write_each(request, bench, {name: (readers[name], text) for name, text in typed.items()}, token)
    return wrong


def _write_each(
    request: HttpRequest, bench: Bench, typed: Mapping[str, tuple[Reader, str]], token: UUID | None
) -> dict[str, Wrong]:
    wrong: dict[str, Wrong] = {}
    for name, (reader, text) in typed.items():
        if len(text) > LONGEST_TYPED:
            wrong[name] = Wrong(text[:LONGEST_KEPT], f"At most {LONGEST_TYPED} characters; this is {len(text):,}.")
            continue
        try:
            services.write(bench.build, reader(text), person_of(request), typed=text, token=token)
        except (LengthError, FaultsError) as error:
            wrong[name] = Wrong(text[:LONGEST_KEPT], message_of(error))
    return wrong


def _not_taken(request: HttpRequest, readers: Mapping[str, Reader], kinds: Collection[str]) -> dict[str, Wrong]:
    """What was typed into fields that this engine does not have, any more or at all: said, with its text."""
    read = {*kinds, *(_read_there(name) for name in readers)}
    names = (name for name in request.POST if name not in readers and PLACES.search(name) and _read_there(name) in read)
    return {
        name: Wrong(text[:LONGEST_KEPT], NO_SUCH_FIELD, at_a_field=False)
        for name in names
        if (text := request.POST.get(name, "").strip())
    }


def _read_there(name: str) -> str:
    """What is read in a field, by its name: a kind's name, or what stands before its places."""
    stem = PLACES.sub("", name)
    return next((kind.name for kind in READING_KINDS if name.startswith(f"{kind.name}-")), stem)


def _undo(request: HttpRequest, bench: Bench, kinds: Collection[str]) -> dict[str, Wrong]:
    entry = _line(request.POST["undo"], bench, kinds)
    try:
        lines.undo(entry, person_of(request))
    except FaultsError as error:
        return {"undo": Wrong(entry.typed, message_of(error), at_a_field=False)}
    messages.info(request, f"Taken back: “{entry.typed}”. It stands struck out in the history.")
    return {}


def _line(key: str, bench: Bench, kinds: Collection[str]) -> Entry:
    kind, _, number = key.rpartition("-")
    if kind not in kinds or not number.isdecimal() or len(number) > LONGEST_NUMBER:
        raise Http404(key)
    found: Entry = get_object_or_404(Entry, kind=kind, pk=int(number), build=bench.build)
    return found


def _strike(request: HttpRequest, bench: Bench, kinds: Collection[str]) -> dict[str, Wrong]:
    key, reason = request.POST["strike"], request.POST.get("reason", "")
    entry = _line(key, bench, kinds)
    try:
        services.strike(entry, person_of(request), reason)
    except FaultsError as error:
        return {f"strike-{key}": Wrong(reason, message_of(error))}
    return {}
