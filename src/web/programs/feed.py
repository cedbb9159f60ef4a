"""The feed of a gauge: readings go to the field with the cursor, or to the tray.

A reading is offered to one page once. One not taken within some seconds, or sent while no field had the cursor, waits
in the tray until the person places or discards it. Nothing goes anywhere else.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from django.db import transaction
from django.db.models import Exists, OuterRef, QuerySet
from django.utils import timezone

from mockup.base.faults import Fault, refuse
from mockup.quantity.gauge_lines import is_bare, with_unit
from web.builds.models import Entry
from web.page.echo import is_understood
from web.programs.models import GaugeReading, GaugeUnit
from web.shops.models import Person

TAKEN_WITHIN = timedelta(seconds=10)
"""How long a page has to take an offered reading; then the reading waits in the tray."""
KEPT = timedelta(days=7)
MOST_WAITING = 200
LONGEST = 40


@dataclass(frozen=True, slots=True)
class Offer:
    """The answer to a page: a reading for its field, if any, and how many wait in the tray."""

    reading: GaugeReading | None
    in_tray: int


def receive(person: Person, token: UUID, text: str, gauge: str, age: timedelta) -> tuple[GaugeReading, int]:
    """Store a reading that a gauge sent ``age`` ago; the same token again is the same reading.

    Returns it and how many wait [1]. Raises FaultsError for what no field reads, or where too many wait.
    """
    text, gauge = " ".join(text.split()), gauge.strip()
    refuse([] if 0 < len(text) <= LONGEST else [Fault("value", f"A reading of 1 to {LONGEST} characters.")])
    refuse([] if text.isprintable() else [Fault("value", "Only printable characters.")])
    refuse([] if len(gauge) <= LONGEST and gauge.isprintable() else [Fault("gauge", f"At most {LONGEST} characters.")])
    refuse([] if is_understood(text) else [Fault("value", f"No field reads “{text}”.")])
    mine = GaugeReading.objects.filter(person=person)
    mine.filter(at__lt=timezone.now() - KEPT).delete()
    waiting = mine.filter(done_at=None).count()
    before = mine.filter(token=token).first()
    if before is None:
        shop = person.shop
        assert shop is not None, "a person without a shop has no key"
        full = f"{waiting} readings are waiting already: place or discard them in the tray."
        refuse([Fault("value", full)] if waiting >= MOST_WAITING else [])
        sent = {"shop": shop, "text": text, "gauge": gauge, "sent_at": timezone.now() - age}
        before, made = GaugeReading.objects.get_or_create(person=person, token=token, defaults=sent)
        waiting += made
    return before, waiting


def waiting_of(person: Person) -> QuerySet[GaugeReading]:
    """Return what waits for a person, oldest first: not finished, not in the log."""
    written = Entry.objects.filter(by=person, token=OuterRef("token"))
    found: QuerySet[GaugeReading] = GaugeReading.objects.filter(person=person, done_at=None)
    return found.filter(~Exists(written)).order_by("pk")


def offer(person: Person, held_since: datetime | None, after: int | None = None) -> Offer:
    """Offer the oldest reading to a field with the cursor since ``held_since``.

    ``after``: the number of the reading that moved the cursor there; without either no field has the cursor. Readings
    sent earlier, offered and not taken, or without a known unit go into the tray.
    """
    now = timezone.now()
    with transaction.atomic():
        in_tray = 0
        for reading in waiting_of(person).select_for_update()[:MOST_WAITING]:
            if reading.in_tray_at:
                in_tray += 1
                continue
            if reading.offered_at and now - reading.offered_at < TAKEN_WITHIN:
                break  # those behind it wait for their turn
            its = unit_of(reading, units_of([reading.gauge]))
            theirs = reading.pk > after if after else bool(held_since and held_since <= reading.sent_at)
            if reading.offered_at is None and its is not None and theirs:
                reading.offered_at = now
                reading.text = with_unit(reading.text, its) if is_bare(reading.text) else reading.text
                reading.save(update_fields=["offered_at", "text"])
                return Offer(reading, in_tray)
            reading.in_tray_at = now
            reading.save(update_fields=["in_tray_at"])
            in_tray += 1
    return Offer(None, in_tray)


def units_of(gauges: Iterable[str]) -> dict[str, str]:
    """Return the unit of each gauge's bare numbers, by its name; unknown ones are left out."""
    return dict(GaugeUnit.objects.filter(gauge__in=set(gauges)).values_list("gauge", "unit"))


def unit_of(reading: GaugeReading, units: dict[str, str]) -> str | None:
    """Return the unit of a bare number, "" if it needs none, None where to be asked."""
    return units.get(reading.gauge) if is_bare(reading.text) else ""


def say_unit(person: Person, gauge: str, unit: str) -> None:
    """Store the unit of a gauge's bare numbers for the shop.

    Raises FaultsError for an unknown unit.
    """
    refuse([] if unit in GaugeUnit.Unit.values else [Fault("unit", "inches, millimetres, thou, or none of them.")])
    refuse([] if len(gauge) <= LONGEST else [Fault("gauge", f"At most {LONGEST} characters.")])
    GaugeUnit.objects.update_or_create(shop=person.shop, gauge=gauge, defaults={"unit": unit})


def done(person: Person, number: int) -> None:
    """Finish a reading: a page has written it as an entry, or a person discarded it."""
    GaugeReading.objects.filter(person=person, done_at=None, pk=number).update(done_at=timezone.now())
