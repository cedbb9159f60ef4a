"""Answer with a build page, or with its changed parts: the frame around the open station."""

from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.cache import patch_vary_headers

from mockup.advice.progress import progress_of
from mockup.base.stations import Station
from mockup.quantity.value import Unit
from mockup.readings.kinds import READING_KINDS
from mockup.words.howto import HOW_TO
from mockup.words.report_text import engine_line
from web.builds.entry_kinds import words_of
from web.builds.models import Entry
from web.drawings.steps_path import steps_path
from web.page.build_page import BuildPage, cylinder_asked
from web.page.drawing_files import asked_for, drawings_of
from web.page.fragments import ASKED, Collected, has_of
from web.page.log_words import where_of
from web.page.margin_strip import strip_of
from web.page.read_fields import Wrong
from web.page.single_fields import also_read
from web.shops.access import person_of

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
    Station.BUY: "to-order",
    Station.ASSEMBLY: "assembly",
}


TYPE_HERE = {
    Station.BLOCK: "Type what you know; leave the rest empty.",
    Station.TDC: "Type both wheel readings of one stop, as 27.5 before TDC and 31 after it.",
    Station.DECK: "Type it as {down} down, {out} out or zero; feelers as goes {goes} not {stops}.",
    Station.STACK: "Take one from the shelf, or type its compressed thickness.",
    Station.VOLUMES: "Type what the burette gave, as 62.4 or 50 + 12.4; a piston as dish 5.2 or 48.2 at {depth}.",
    Station.MOCKUP: "Enter the mock-up’s gasket; everything else has its usual answer.",
    Station.CAM: "Type both wheel readings at one lift, as 48 ATDC and 168 ATDC.",
    Station.PUSHRODS: "Type its turns, as 11.5 turns, or its length by caliper, as {rod}.",
    Station.CLAY: "Type each slice as it was cut, as {clay} or {clay} wall; no print where it shows none.",
    Station.SWEEP: "Type each reading at its angle, as {clay}; at another angle both, as 9 ATDC {clay}; feelers as "
    "goes {goes} not {stops}.",
}
"""What to type at a station, shown in the box that leads there from the others."""
STRIKE_REASONS = (
    "mistyped",
    "another cylinder or valve",
    "clay dented under the caliper",
    "clay torn",
    "clay stuck to the valve",
    "not cut at its thinnest",
    "not at TDC",
    "dial moved or slipped",
)
"""Usual reasons to strike a reading out, offered as it is typed."""
TYPED_ONE_BY_ONE = frozenset(kind.station for kind in READING_KINDS) - {Station.TDC}
"""Stations whose readings are typed one by one, so that one can be shown alone, in large type; TDC takes pairs."""
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
"""The example figures, in the build's unit."""


def station_url(station: Station, build_id: int, cylinder: int | None = None) -> str:
    """Return the address of a station; the clay station opens at a cylinder."""
    address = reverse(STATION_URLS[station], args=[build_id])
    by_cylinder = station in (Station.CLAY, Station.SWEEP, Station.PUSHRODS)
    return f"{address}?cylinder={cylinder}" if cylinder and by_cylinder else address


def frame(page: BuildPage, station: Station | None) -> dict[str, Any]:
    """Return the context of the frame of a build page, for any open station."""
    every = progress_of(page.report)
    stops = [stop for stop in every if not stop.aside]
    step = page.report.steps[0]
    return {
        "bench": page,
        "seen": page.touched,
        "build": page.build,
        "report": page.report,
        "unit": page.unit,
        "engine_line": engine_line(page.report.job.engine, page.unit),
        "strip": strip_of(page.report),
        "stops": [(stop, station_url(stop.station, page.build.pk)) for stop in stops],
        "aside": [(stop.station, station_url(stop.station, page.build.pk)) for stop in every if stop.aside],
        "steps_path": steps_path([stop.progress for stop in stops]),
        "station": station,
        "how_to": HOW_TO.get(station) if station else None,
        "place_in_run": next((at for at, stop in enumerate(stops, start=1) if stop.station is station), None),
        "strip_check": page.report.tightest,
        "bench_words": ("down", "out") if station is Station.DECK else ("mm", "thou"),
        "has_fields": station in TYPED_ONE_BY_ONE,
        "strike_reasons": STRIKE_REASONS,
        "next_step": step,
        "next_here": TYPE_HERE.get(step.station, "").format(**EXAMPLES[page.unit]),
        "next_url": station_url(step.station, page.build.pk, step.cylinder),
    }


def show(request: HttpRequest, page: BuildPage, station: Station, parts: dict[str, Any]) -> HttpResponse:
    """Return the full page, or for htmx the changing part of it: the same partial.

    ``parts`` holds the station's own context, with ``folder`` naming where its ``_sheet.html`` and ``_drawing.html``
    are. Typing that was not understood answers 422 with the page as typed.
    """
    status = 422 if parts.get("wrong") else 200
    if request.headers.get(ASKED):
        return JsonResponse({"page": changed_parts(request, page, station, parts)}, status=status)
    context = _context(request, page, station, parts)
    alone = asked_for(request, context["drawings"], str(page.build))
    if alone:
        return alone
    template = "page/_bench.html" if request.headers.get("HX-Request") else "page/bench.html"
    response = render(request, template, context, status=status)
    patch_vary_headers(response, ["HX-Request", ASKED])
    return response


def changed_parts(request: HttpRequest, page: BuildPage, station: Station, parts: dict[str, Any]) -> dict[str, Any]:
    """Return the parts that differ from the asking page, and what its fields still want."""
    collected = Collected(has_of(request))
    context = {**_context(request, page, station, parts), "collected": collected}
    render_to_string("page/_bench.html", context, request)
    return {"seen": page.touched, "address": context["address"], **collected.changed()}


def _context(request: HttpRequest, page: BuildPage, station: Station, parts: dict[str, Any]) -> dict[str, Any]:
    undo = _undo(request, page, station)
    context = {
        **frame(page, station),
        "address": _address(request, parts),
        "undo": undo,
        "undo_what": f"{words_of(undo.kind)} {where_of(undo, page)}".strip() if undo else "",
        **_also(request, page, station, parts),
        **parts,
        "not_taken": _not_taken(parts),
    }
    # Set before the frame: its drawings are named and served one by one.
    drawing = render_to_string(f"{parts['folder']}/_drawing.html", context, request)
    # A page over the full width has its drawings among its forms.
    sheet = render_to_string(f"{parts['folder']}/_sheet.html", context, request) if parts.get("whole") else ""
    return context | {"drawing": drawing, "drawings": drawings_of(sheet + drawing)}


def _address(request: HttpRequest, parts: dict[str, Any]) -> str:
    """Return the page's address with all its choices, so that a later answer shows the same.

    Otherwise a mock-up saved meanwhile by another person would replace the one on the page.
    """
    query = request.GET.copy()
    for name, value in parts.get("pinned", {}).items():
        query[name] = str(value)
    return f"{request.path}?{query.urlencode()}" if query else request.path


def _undo(request: HttpRequest, page: BuildPage, station: Station) -> Entry | None:
    """Return the person's last reading of the build, if it belongs to this station."""
    here = {kind.name for kind in READING_KINDS if kind.station is station}
    every = {kind.name for kind in READING_KINDS}
    mine = (row for row in reversed(page.log) if row.by_id == person_of(request).pk and not row.struck_reason)
    last = next((row for row in mine if row.kind in every), None) if here else None
    return last if last and last.kind in here else None


def _not_taken(parts: dict[str, Any]) -> list[Wrong]:
    """Return what was typed into missing fields, which no field can show."""
    wrong = parts.get("wrong") or {}
    return [one for one in wrong.values() if isinstance(one, Wrong) and not one.at_a_field]


def _also(request: HttpRequest, page: BuildPage, station: Station, parts: dict[str, Any]) -> dict[str, Any]:
    """Return what kinds of reading and check declare to be shown at a station."""
    cylinder = cylinder_asked(request, page)
    found = (check for check in page.report.checks if check.kind.station is station and check.cylinder == cylinder)
    return {
        "also": also_read(request, page, station, parts.get("wrong") or {}),
        "also_checks": [check for check in found if check.governing],
    }


def answer(
    request: HttpRequest, page: BuildPage, station: Station, address: str, parts: dict[str, Any]
) -> HttpResponse:
    """Answer a read with the page, a post with its changed part or with a redirect."""
    if request.method != "POST" or request.headers.get("HX-Request") or parts.get("wrong"):
        return show(request, page, station, parts)
    return redirect(address)
