"""Process what was posted without script: a whole form, or an entry to strike out.

A field that cannot be read keeps its text and says why; the others are still written.
"""

import re
from collections.abc import Collection, Mapping
from uuid import UUID

from django.contrib import messages
from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from mockup.base.faults import FaultsError, message_of
from mockup.base.stations import Station
from mockup.quantity.typed import LengthError
from mockup.readings.kinds import READING_KINDS
from web.builds import append_entries, services
from web.builds.models import Entry
from web.page.build_page import BuildPage, token_of
from web.page.read_fields import LONGEST_TYPED, Reader, Wrong
from web.shops.access import person_of

LONGEST_KEPT = 200
PLACES = re.compile(r"(-[a-z0-9]+)+$")
"""The places at the end of a field's name, after the kind."""
NO_SUCH_FIELD = "Not saved: this engine has no such place now. Was it changed meanwhile?"
LONGEST_NUMBER = 18
"""Digits of a row number that PostgreSQL can store."""


def take_readings(
    request: HttpRequest, page: BuildPage, station: Station, readers: Mapping[str, Reader], *others: str
) -> dict[str, Wrong]:
    """Write a station's posted readings, or strike out one of them or of the ``others``.

    Returns what was wrong, by field name.
    """
    kinds = [kind.name for kind in READING_KINDS if kind.station is station]
    return take(request, page, readers, *kinds, *others)


def take(request: HttpRequest, page: BuildPage, readers: Mapping[str, Reader], *kinds: str) -> dict[str, Wrong]:
    """Write what was posted, or strike out the posted entry if it is of one of ``kinds``.

    Returns what was wrong, by field name.
    """
    if "undo" in request.POST:
        wrong = _undo(request, page, kinds)
    elif "strike" in request.POST:
        wrong = _strike(request, page, kinds)
    else:
        wrong = _write(request, page, readers, kinds)
    page.refresh()
    return wrong


def _write(
    request: HttpRequest, page: BuildPage, readers: Mapping[str, Reader], kinds: Collection[str]
) -> dict[str, Wrong]:
    wrong = _not_taken(request, readers, kinds)
    typed = {name: text for name in readers if (text := request.POST.get(name, "").strip())}
    # The token belongs to one saving of one field; a whole form sent without script has none.
    token: UUID | None = token_of(request) if len(typed) == 1 else None
    if not typed:
        return wrong
    # A whole form is one change of the build: evaluated once, at its end.
    with services.locked(page.build):
        wrong |= _write_each(request, page, {name: (readers[name], text) for name, text in typed.items()}, token)
    return wrong


def _write_each(
    request: HttpRequest, page: BuildPage, typed: Mapping[str, tuple[Reader, str]], token: UUID | None
) -> dict[str, Wrong]:
    wrong: dict[str, Wrong] = {}
    for name, (reader, text) in typed.items():
        if len(text) > LONGEST_TYPED:
            wrong[name] = Wrong(text[:LONGEST_KEPT], f"At most {LONGEST_TYPED} characters; this is {len(text):,}.")
            continue
        try:
            services.write(page.build, reader(text), person_of(request), typed=text, token=token)
        except (LengthError, FaultsError) as error:
            wrong[name] = Wrong(text[:LONGEST_KEPT], message_of(error))
    return wrong


def _not_taken(request: HttpRequest, readers: Mapping[str, Reader], kinds: Collection[str]) -> dict[str, Wrong]:
    """Return what was typed into fields this engine no longer has, with a message."""
    read = {*kinds, *(_read_there(name) for name in readers)}
    names = (name for name in request.POST if name not in readers and PLACES.search(name) and _read_there(name) in read)
    return {
        name: Wrong(text[:LONGEST_KEPT], NO_SUCH_FIELD, at_a_field=False)
        for name in names
        if (text := request.POST.get(name, "").strip())
    }


def _read_there(name: str) -> str:
    """Return what a field reads, by its name: a kind's name, or the part before its places."""
    stem = PLACES.sub("", name)
    return next((kind.name for kind in READING_KINDS if name.startswith(f"{kind.name}-")), stem)


def _undo(request: HttpRequest, page: BuildPage, kinds: Collection[str]) -> dict[str, Wrong]:
    entry = _line(request.POST["undo"], page, kinds)
    try:
        append_entries.undo(entry, person_of(request))
    except FaultsError as error:
        return {"undo": Wrong(entry.typed, message_of(error), at_a_field=False)}
    messages.info(request, f"Taken back: “{entry.typed}”. It is in the history, struck out.")
    return {}


def _line(key: str, page: BuildPage, kinds: Collection[str]) -> Entry:
    kind, _, number = key.rpartition("-")
    if kind not in kinds or not number.isdecimal() or len(number) > LONGEST_NUMBER:
        raise Http404(key)
    found: Entry = get_object_or_404(Entry, kind=kind, pk=int(number), build=page.build)
    return found


def _strike(request: HttpRequest, page: BuildPage, kinds: Collection[str]) -> dict[str, Wrong]:
    key, reason = request.POST["strike"], request.POST.get("reason", "")
    entry = _line(key, page, kinds)
    try:
        services.strike(entry, person_of(request), reason)
    except FaultsError as error:
        return {f"strike-{key}": Wrong(reason, message_of(error))}
    return {}
