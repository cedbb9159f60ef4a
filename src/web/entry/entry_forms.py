"""The forms that readings are entered on: a station declares one, its address finds it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest, HttpResponse

from mockup.base.stations import Station
from web.entry.without_script import take_readings
from web.page.answers import STATION_URLS, answer
from web.page.build_page import Asked, BuildPage, build_page_or_404
from web.page.read_fields import Reader, Wrong
from web.page.single_fields import one_field_readers
from web.shops.access import View, member_writes

Parts = Callable[[HttpRequest, BuildPage, dict[str, Any]], dict[str, Any]]
Readers = Callable[[Asked, BuildPage], Mapping[str, Reader]]


@dataclass(frozen=True, slots=True, kw_only=True)
class EntryForm:
    """How a station's fields are read, and what its page shows.

    ``readers``: the reader of each field's text by field name, for the page's query and form data. ``parts``: the
    station's own context, with errors by field name. ``strikes``: kinds of entry besides the station's readings that
    are struck out there.
    """

    station: Station
    readers: Readers
    parts: Parts
    strikes: tuple[str, ...] = ()

    def readers_of(self, asked: Asked, page: BuildPage) -> dict[str, Reader]:
        """Return the reader of every field of the page, including those that kinds declare."""
        return {**self.readers(asked, page), **one_field_readers(asked, page, self.station)}


ENTRY_FORMS: dict[str, EntryForm] = {}
"""Every form by the name of its address."""


def declare(form: EntryForm) -> EntryForm:
    """Register a station's form under the name of its address.

    Raises ValueError where it has one already.
    """
    name = STATION_URLS[form.station]
    if name in ENTRY_FORMS:
        raise ValueError(f"The {form.station} has two entry forms.")
    ENTRY_FORMS[name] = form
    return form


def view_of(form: EntryForm) -> View:
    """Return the page of a station that has its entry form and no other form."""

    @member_writes
    def view(request: HttpRequest, build_id: int) -> HttpResponse:
        page = build_page_or_404(build_id)
        wrong: dict[str, Wrong] = {}
        if request.method == "POST":
            wrong = take_posted(request, page, form)
        return answer(request, page, form.station, request.get_full_path(), form.parts(request, page, wrong))

    return view


def take_posted(request: HttpRequest, page: BuildPage, form: EntryForm) -> dict[str, Wrong]:
    """Process what was posted to a form's page without script: a form, a strike, an undo."""
    return take_readings(request, page, form.station, form.readers_of(request, page), *form.strikes)
