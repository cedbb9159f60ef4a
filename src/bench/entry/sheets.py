"""The sheets that readings are entered on: each station declares its own, and its address finds it again."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest, HttpResponse

from bench.entry.taking import take_readings
from bench.page.also import one_field_readers
from bench.page.bench import Asked, Bench, bench_or_404
from bench.page.entering import Reader, Wrong
from bench.page.show import STATION_URLS, answer
from bench.shops.access import View, member_writes
from mockup.stations import Station

Parts = Callable[[HttpRequest, Bench, dict[str, Any]], dict[str, Any]]
Readers = Callable[[Asked, Bench], Mapping[str, Reader]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """How a station's fields are read, and what its page shows.

    ``readers``: the reader of each field's text by the field's name, for what the page was asked for and told.
    ``parts``: the station's own context, with what was wrong by field name.
    ``strikes``: kinds of entry other than readings of the station that are struck out there.
    """

    station: Station
    readers: Readers
    parts: Parts
    strikes: tuple[str, ...] = ()

    def readers_of(self, asked: Asked, bench: Bench) -> dict[str, Reader]:
        """Return the reader of every field of the page, those that kinds declare for themselves too."""
        return {**self.readers(asked, bench), **one_field_readers(asked, bench, self.station)}


SHEETS: dict[str, Sheet] = {}
"""Every sheet by the name of its address."""


def declare(sheet: Sheet) -> Sheet:
    """Keep a station's sheet under the name of its address. Raises ValueError where it has one already."""
    name = STATION_URLS[sheet.station]
    if name in SHEETS:
        raise ValueError(f"The {sheet.station} has two sheets.")
    SHEETS[name] = sheet
    return sheet


def view_of(sheet: Sheet) -> View:
    """Return the page of a station that holds its sheet and no form of its own."""

    @member_writes
    def view(request: HttpRequest, build_id: int) -> HttpResponse:
        bench = bench_or_404(build_id)
        wrong: dict[str, Wrong] = {}
        if request.method == "POST":
            wrong = take_posted(request, bench, sheet)
        return answer(request, bench, sheet.station, request.get_full_path(), sheet.parts(request, bench, wrong))

    return view


def take_posted(request: HttpRequest, bench: Bench, sheet: Sheet) -> dict[str, Wrong]:
    """Take what was posted to a sheet's page without script: a whole sheet, a strike or an undo."""
    return take_readings(request, bench, sheet.station, sheet.readers_of(request, bench), *sheet.strikes)
