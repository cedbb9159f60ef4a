"""Answer with a build page, or with the parts of it that changed: the frame about the station that is open."""

from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.cache import patch_vary_headers

from bench.builds.kinds import words_of
from bench.builds.models import Entry
from bench.drawings.burrow import burrow
from bench.page.also import also_read
from bench.page.bench import Bench, cylinder_asked
from bench.page.drawn import asked_for, drawings_of
from bench.page.entering import Wrong
from bench.page.parts import ASKED, Collected, has_of
from bench.page.strip import strip_of
from bench.page.written import where_of
from bench.shops.access import person_of
from mockup.help.howto import HOW_TO
from mockup.quantity.value import Unit
from mockup.reading_kinds import READING_KINDS
from mockup.run import run_of
from mockup.stations import Station
from mockup.words import engine_line

STATION_URLS = {
    Station.BLOCK: "block",
    Station.TDC: "tdc",
    Station.DECK: "deck",
    Station.STACK: "stack",
    Station.VOLUMES: "volumes",
    Station.QUENCH: "quench",
    Station.MOCKUP: "mock-up",
    Station.CAM: "cam",
    Station.PUSHRODS: "pushrods",
    Station.CLAY: "clay",
    Station.SWEEP: "sweep",
    Station.VERDICT: "verdict",
    Station.RIGHT: "put-right",
    Station.ASSEMBLY: "assembly",
}


TYPE_HERE = {
    Station.BLOCK: "Type what you know; leave the rest empty.",
    Station.TDC: "Type both wheel readings of one stop, as 27.5 before TDC and 31 after it.",
    Station.DECK: "Type it as {down} down, {out} out or zero; feelers as goes {goes} not {stops}.",
    Station.STACK: "Take one off the shelf, or type its compressed thickness.",
    Station.VOLUMES: "Type what the burette gave, as 62.4 or 50 + 12.4; a piston as dish 5.2 or 48.2 at {depth}.",
    Station.MOCKUP: "Say what gasket stood there; all else has its usual answer.",
    Station.CAM: "Type both wheel readings at one lift, as 48 ATDC and 168 ATDC.",
    Station.PUSHRODS: "Type its turns, as 11.5 turns, or its length by caliper, as {rod}.",
    Station.CLAY: "Type each slice as it was cut, as {clay} or {clay} wall; no print where it shows none.",
    Station.SWEEP: "Type each reading at its angle, as {clay}; at another angle both, as 9 ATDC {clay}.",
}
"""What to type at a station, in the box that leads there from the others."""
TYPED_ONE_BY_ONE = (Station.DECK, Station.VOLUMES, Station.CAM, Station.PUSHRODS, Station.CLAY, Station.SWEEP)
"""Stations whose readings are typed one by one, so that one of them can be shown by itself, large."""
EXAMPLES = {
    Unit.INCH: {"down": "11", "out": "5", "goes": "11", "stops": "12", "depth": ".300", "rod": "7.375", "clay": "96"},
    Unit.MILLIMETRE: {
        "down": "0.28",
        "out": "0.13",
        "goes": "0.25",
        "stops": "0.30",
        "depth": "7.5",
        "rod": "187.3",
        "clay": "2.44",
    },
}
"""The figures in it, as a build of each unit reads them."""


def station_url(station: Station, build_id: int, cylinder: int | None = None) -> str:
    """The address of a station; the clay station opens at a cylinder."""
    address = reverse(STATION_URLS[station], args=[build_id])
    by_cylinder = station in (Station.CLAY, Station.SWEEP, Station.PUSHRODS)
    return f"{address}?cylinder={cylinder}" if cylinder and by_cylinder else address


def frame(bench: Bench, station: Station | None) -> dict[str, Any]:
    """What the frame of a build page needs, whichever station is open."""
    every = run_of(bench.report)
    stops = [stop for stop in every if not stop.aside]
    step = bench.report.steps[0]
    return {
        "bench": bench,
        "seen": bench.touched,
        "build": bench.build,
        "report": bench.report,
        "unit": bench.unit,
        "engine_line": engine_line(bench.report.job.engine, bench.unit),
        "strip": strip_of(bench.report),
        "stops": [(stop, station_url(stop.station, bench.build.pk)) for stop in stops],
        "aside": [(stop.station, station_url(stop.station, bench.build.pk)) for stop in every if stop.aside],
        "burrow": burrow([stop.progress for stop in stops]),
        "station": station,
        "how_to": HOW_TO.get(station) if station else None,
        "place_in_run": next((at for at, stop in enumerate(stops, start=1) if stop.station is station), None),
        "strip_check": bench.report.tightest,
        "bench_words": ("down", "out") if station is Station.DECK else ("mm", "thou"),
        "has_fields": station in TYPED_ONE_BY_ONE,
        "next_step": step,
        "next_here": TYPE_HERE.get(step.station, "").format(**EXAMPLES[bench.unit]),
        "next_url": station_url(step.station, bench.build.pk, step.cylinder),
    }


def show(request: HttpRequest, bench: Bench, station: Station, parts: dict[str, Any]) -> HttpResponse:
    """The full page, or for htmx the part of it that moves: the same partial.

    ``parts`` holds the station's own context, with ``folder`` naming where its ``_sheet.html`` and
    ``_drawing.html`` are. Typing that was not understood answers 422 with the page as typed.
    """
    status = 422 if parts.get("wrong") else 200
    if request.headers.get(ASKED):
        return JsonResponse({"page": changed_parts(request, bench, station, parts)}, status=status)
    context = _context(request, bench, station, parts)
    alone = asked_for(request, context["drawings"], str(bench.build))
    if alone:
        return alone
    template = "page/_bench.html" if request.headers.get("HX-Request") else "page/bench.html"
    response = render(request, template, context, status=status)
    patch_vary_headers(response, ["HX-Request", ASKED])
    return response


def changed_parts(request: HttpRequest, bench: Bench, station: Station, parts: dict[str, Any]) -> dict[str, Any]:
    """Return the parts of the page that are no longer as the asking page has them, and what its fields still want."""
    collected = Collected(has_of(request))
    context = {**_context(request, bench, station, parts), "collected": collected}
    render_to_string("page/_bench.html", context, request)
    return {"seen": bench.touched, "address": context["address"], **collected.changed()}


def _context(request: HttpRequest, bench: Bench, station: Station, parts: dict[str, Any]) -> dict[str, Any]:
    undo = _undo(request, bench, station)
    context = {
        **frame(bench, station),
        "address": _address(request, parts),
        "undo": undo,
        "undo_what": f"{words_of(undo.kind)} {where_of(undo, bench)}".strip() if undo else "",
        **_also(request, bench, station, parts),
        **parts,
        "not_taken": _not_taken(parts),
    }
    # Set before the frame: its drawings are named and given out one by one.
    drawing = render_to_string(f"{parts['folder']}/_drawing.html", context, request)
    return context | {"drawing": drawing, "drawings": drawings_of(drawing)}


def _address(request: HttpRequest, parts: dict[str, Any]) -> str:
    """Return the address of the page with everything that is shown said in it, so that a later answer shows the same.

    Without it a mock-up set down meanwhile by somebody else would take the place of the one on the page.
    """
    query = request.GET.copy()
    for name, value in parts.get("pinned", {}).items():
        query[name] = str(value)
    return f"{request.path}?{query.urlencode()}" if query else request.path


def _undo(request: HttpRequest, bench: Bench, station: Station) -> Entry | None:
    """The person's last reading of the build, where it belongs to this station."""
    here = {kind.name for kind in READING_KINDS if kind.station is station}
    every = {kind.name for kind in READING_KINDS}
    mine = (row for row in reversed(bench.book) if row.by_id == person_of(request).pk and not row.struck_reason)
    last = next((row for row in mine if row.kind in every), None) if here else None
    return last if last and last.kind in here else None


def _not_taken(parts: dict[str, Any]) -> list[Wrong]:
    """What was typed into fields that are gone: no field is left to show it at."""
    wrong = parts.get("wrong") or {}
    return [one for one in wrong.values() if isinstance(one, Wrong) and not one.at_a_field]


def _also(request: HttpRequest, bench: Bench, station: Station, parts: dict[str, Any]) -> dict[str, Any]:
    """What kinds of reading and check declare of themselves to be shown at a station."""
    cylinder = cylinder_asked(request, bench)
    found = (check for check in bench.report.checks if check.kind.station is station and check.cylinder == cylinder)
    return {
        "also": also_read(request, bench, station, parts.get("wrong") or {}),
        "also_checks": [check for check in found if check.governing],
    }


def answer(request: HttpRequest, bench: Bench, station: Station, address: str, parts: dict[str, Any]) -> HttpResponse:
    """The page on a read; after a post the part that moves, or without script the page itself again."""
    if request.method != "POST" or request.headers.get("HX-Request") or parts.get("wrong"):
        return show(request, bench, station, parts)
    return redirect(address)
