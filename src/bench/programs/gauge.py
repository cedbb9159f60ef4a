"""The feed of a gauge: what its little computer sends lands in the field in hand of its person's open page.

A reading is offered to one page at a time, the oldest first, and to none while the one before it is on its way. A page
that dies before it saved is forgotten after some seconds, and the reading offered anew; whatever happens, its token
stands in the book once.
"""

from datetime import timedelta
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from bench.builds.models import Entry
from bench.page.bench import token_of
from bench.page.entering import message_of
from bench.programs.models import GaugeReading
from bench.shops.access import member_writes, person_of
from bench.shops.models import Person
from bench.stand.gauges import way_named
from mockup.faults import Fault, FaultsError, refuse
from mockup.quantity.gauge_lines import LONGEST_LINE, read_line

OFFERED_AGAIN = timedelta(seconds=10)
"""So long a page has for writing a reading; then another may."""
KEPT = timedelta(days=1)
MOST_WAITING = 200
LONGEST = 40


def receive(person: Person, token: UUID, text: str, gauge: str) -> tuple[GaugeReading, int]:
    """Keep a reading for a person's page; the same token again is the same reading. Returns it, and how many wait [1].

    Raises FaultsError for what nobody can type into a field, or where too many wait.
    """
    text, gauge = " ".join(text.split()), gauge.strip()
    refuse([] if 0 < len(text) <= LONGEST else [Fault("value", f"A reading of 1 to {LONGEST} characters.")])
    refuse([] if text.isprintable() else [Fault("value", "Only what somebody can type.")])
    refuse([] if len(gauge) <= LONGEST and gauge.isprintable() else [Fault("gauge", f"At most {LONGEST} letters.")])
    mine = GaugeReading.objects.filter(person=person)
    mine.filter(at__lt=timezone.now() - KEPT).delete()
    waiting = mine.filter(done_at=None).count()
    before = mine.filter(token=token).first()
    if before is None:
        shop = person.shop
        assert shop is not None, "somebody of no shop has no key"
        full = f"{waiting} readings wait already: open a page that takes them, or throw them away there."
        refuse([Fault("value", full)] if waiting >= MOST_WAITING else [])
        before, made = GaugeReading.objects.get_or_create(
            person=person, token=token, defaults={"shop": shop, "text": text, "gauge": gauge}
        )
        waiting += made
    return before, waiting


@require_POST
@never_cache
@member_writes
def gauge_next(request: HttpRequest) -> HttpResponse:
    """The oldest reading that waits for this person, for the page that asks; 204 while there is none for it."""
    now = timezone.now()
    with transaction.atomic():
        waiting = GaugeReading.objects.select_for_update().filter(person=person_of(request), done_at=None)
        for reading in waiting.order_by("pk")[:MOST_WAITING]:
            if Entry.objects.filter(token=reading.token).exists():
                # Written, though the page did not live to say so.
                reading.done_at = now
                reading.save(update_fields=["done_at"])
                continue
            if reading.offered_at and now - reading.offered_at < OFFERED_AGAIN:
                break
            reading.offered_at = now
            reading.save(update_fields=["offered_at"])
            told = {"number": reading.pk, "text": reading.text, "gauge": reading.gauge, "token": str(reading.token)}
            return JsonResponse(told)
    return HttpResponse(status=204)


@require_POST
@never_cache
@member_writes
def gauge_line(request: HttpRequest) -> HttpResponse:
    """A line that the browser read off a serial cable: read by its way, and kept for this person's page.

    The same token again is the same reading. What holds no reading is refused (422) and not sent again.
    """
    way = way_named(request.POST.get("way", ""))
    token = token_of(request)
    try:
        refuse([] if way else [Fault("way", "That way of reading lines is gone: choose another.")])
        refuse([] if token else [Fault("token", "It has no token.")])
        assert way is not None
        assert token is not None
        text = read_line(request.POST.get("line", "")[: LONGEST_LINE + 1], way)
        found, waiting = receive(person_of(request), token, text, request.POST.get("gauge", "")[:LONGEST])
    except FaultsError as error:
        return JsonResponse({"refused": message_of(error)}, status=422)
    return JsonResponse({"text": found.text, "waiting": waiting}, status=201)


@require_POST
@never_cache
@member_writes
def gauge_done(request: HttpRequest) -> HttpResponse:
    """The page has shown a reading's fate at its field, saved or refused; ``all`` throws away what waits."""
    mine = GaugeReading.objects.filter(person=person_of(request), done_at=None)
    number = request.POST.get("number", "")
    if "all" in request.POST:
        mine.update(done_at=timezone.now())
    elif number.isdecimal() and len(number) <= 18:
        mine.filter(pk=int(number)).update(done_at=timezone.now())
    return HttpResponse(status=204)
