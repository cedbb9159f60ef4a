"""What a page asks about gauges: the next reading, the tray, a reading's fate."""

from datetime import UTC, datetime, timedelta

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from mockup.base.faults import Fault, FaultsError, message_of, refuse
from mockup.quantity.gauge_lines import LONGEST_LINE, is_bare, read_line, with_unit
from web.page.build_page import token_of
from web.programs import feed
from web.programs.models import GaugeReading, GaugeUnit
from web.shelf_pages.gauges import way_named
from web.shops.access import member_writes, person_of

LONGEST_AGO_MS = 7 * 24 * 3600 * 1000.0


def _ago(text: str) -> timedelta | None:
    """Return a duration from milliseconds [ms] as a page sends them; None if invalid."""
    try:
        ms = float(text)
    except ValueError:
        return None
    return timedelta(milliseconds=min(ms, LONGEST_AGO_MS)) if ms >= 0 else None


@require_POST
@never_cache
@member_writes
def gauge_next(request: HttpRequest) -> HttpResponse:
    """Return the next reading for the field that has the cursor, and how many wait in the tray.

    The field has had it since ``since_ms`` by our clock, or since the reading numbered ``after`` moved it there. 204
    where there is no reading, and as many in the tray as the page knows of. Every answer states the time, so that a
    page knows our clock; ``hello`` asks for nothing else.
    """
    clock = {"X-Now": f"{timezone.now().timestamp() * 1000:.0f}"}
    if "hello" in request.POST:
        return HttpResponse(status=204, headers=clock)
    found = feed.offer(person_of(request), _since(request.POST.get("since_ms", "")), _after(request))
    if found.reading is None and request.POST.get("in_tray", "0") == str(found.in_tray):
        return HttpResponse(status=204, headers=clock)
    told = {"in_tray": found.in_tray, "reading": _told(found.reading) if found.reading else None}
    return JsonResponse(told, headers=clock)


def _since(text: str) -> datetime | None:
    """Return a time from milliseconds since 1970 [ms]; None if invalid."""
    try:
        return datetime.fromtimestamp(float(text) / 1000, tz=UTC)
    except (ValueError, OverflowError, OSError):
        return None


def _after(request: HttpRequest) -> int | None:
    number = request.POST.get("after", "")
    return int(number) if number.isdecimal() and len(number) <= 18 else None


def _told(reading: GaugeReading) -> dict[str, str | int]:
    age_ms = round((timezone.now() - reading.sent_at).total_seconds() * 1000)
    return {
        "number": reading.pk,
        "text": reading.text,
        "gauge": reading.gauge,
        "token": str(reading.token),
        "age_ms": max(age_ms, 0),
    }


@require_GET
@never_cache
def gauge_tray(request: HttpRequest) -> HttpResponse:
    """Return a fragment with what waits in the person's tray."""
    waiting = [one for one in feed.waiting_of(person_of(request)) if one.in_tray_at]
    units = feed.units_of(one.gauge for one in waiting)
    rows = []
    for one in waiting:
        unit = feed.unit_of(one, units)
        text = with_unit(one.text, unit) if unit and is_bare(one.text) else one.text
        rows.append({"reading": one, "text": text, "asks": unit is None})
    return render(request, "page/_tray.html", {"rows": rows, "units": GaugeUnit.Unit.choices})


@require_POST
@never_cache
@member_writes
def gauge_line(request: HttpRequest) -> HttpResponse:
    """Store a line that the browser read from a serial cable, parsed by its format.

    The same token again is the same reading. A line without a reading is refused (422) and not sent again.
    """
    way = way_named(request.POST.get("way", ""))
    token = token_of(request)
    try:
        refuse([] if way else [Fault("way", "That gauge format no longer exists: choose another.")])
        refuse([] if token else [Fault("token", "The token is missing.")])
        assert way is not None
        assert token is not None
        text = read_line(request.POST.get("line", "")[: LONGEST_LINE + 1], way)
        age = _ago(request.POST.get("age_ms", "")) or timedelta(0)
        gauge = request.POST.get("gauge", "")[: feed.LONGEST]
        found, waiting = feed.receive(person_of(request), token, text, gauge, age)
    except FaultsError as error:
        return JsonResponse({"refused": message_of(error)}, status=422)
    return JsonResponse({"text": found.text, "waiting": waiting}, status=201)


@require_POST
@never_cache
@member_writes
def gauge_done(request: HttpRequest) -> HttpResponse:
    """Finish a reading: the page has written it as an entry, or a person discarded it."""
    number = request.POST.get("number", "")
    if number.isdecimal() and len(number) <= 18:
        feed.done(person_of(request), int(number))
    return HttpResponse(status=204)


@require_POST
@never_cache
@member_writes
def gauge_unit(request: HttpRequest) -> HttpResponse:
    """Store the unit of a gauge's bare numbers, stated once."""
    try:
        feed.say_unit(person_of(request), request.POST.get("gauge", ""), request.POST.get("unit", "?"))
    except FaultsError as error:
        return JsonResponse({"refused": message_of(error)}, status=422)
    return HttpResponse(status=204)
