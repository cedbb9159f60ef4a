"""The feed of a gauge: what it sends goes into the field that had the cursor then, or waits in its person's tray.

A reading is offered to one page once. What is not taken within some seconds, and what was sent while no field had the
cursor, waits in the tray until the person places it or throws it away. Nothing lands anywhere else.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from django.db import transaction
from django.db.models import Exists, OuterRef, QuerySet
from django.utils import timezone

from bench.builds.models import Entry
from bench.page.echo import is_understood
from bench.programs.models import GaugeReading, GaugeUnit
from bench.shops.models import Person
from mockup.faults import Fault, refuse
from mockup.quantity.gauge_lines import is_bare, with_unit

TAKEN_WITHIN = timedelta(seconds=10)
"""So long a page has to take a reading it was offered; then the reading waits in the tray."""
KEPT = timedelta(days=7)
MOST_WAITING = 200
LONGEST = 40


@dataclass(frozen=True, slots=True)
class Offer:
    """What a page is told: a reading for its field, if there is one, and how many wait in the tray."""

    reading: GaugeReading | None
    in_tray: int


def receive(person: Person, token: UUID, text: str, gauge: str, age: timedelta) -> tuple[GaugeReading, int]:
    """Keep a reading that a gauge sent ``age`` ago; the same token again is the same reading.

    Returns it and how many wait [1]. Raises FaultsError for what no field reads, or where too many wait.
    """
    text, gauge = " ".join(text.split()), gauge.strip()
    refuse([] if 0 < len(text) <= LONGEST else [Fault("value", f"A reading of 1 to {LONGEST} characters.")])
    refuse([] if text.isprintable() else [Fault("value", "Only what somebody can type.")])
    refuse([] if len(gauge) <= LONGEST and gauge.isprintable() else [Fault("gauge", f"At most {LONGEST} letters.")])
    refuse([] if is_understood(text) else [Fault("value", f"“{text}” is nothing that a field reads.")])
    mine = GaugeReading.objects.filter(person=person)
    mine.filter(at__lt=timezone.now() - KEPT).delete()
    waiting = mine.filter(done_at=None).count()
    before = mine.filter(token=token).first()
    if before is None:
        shop = person.shop
        assert shop is not None, "somebody of no shop has no key"
        full = f"{waiting} readings wait already: place them, or throw them away, in the tray."
        refuse([Fault("value", full)] if waiting >= MOST_WAITING else [])
        sent = {"shop": shop, "text": text, "gauge": gauge, "sent_at": timezone.now() - age}
        before, made = GaugeReading.objects.get_or_create(person=person, token=token, defaults=sent)
        waiting += made
    return before, waiting


def waiting_of(person: Person) -> QuerySet[GaugeReading]:
    """Return what waits for a person, oldest first: neither done with nor in the log by its token."""
    written = Entry.objects.filter(by=person, token=OuterRef("token"))
    found: QuerySet[GaugeReading] = GaugeReading.objects.filter(person=person, done_at=None)
    return found.filter(~Exists(written)).order_by("pk")


def offer(person: Person, held_since: datetime | None, after: int | None = None) -> Offer:
    """Offer the oldest reading to a field that has had the cursor since ``held_since``, or since a reading moved it.

    ``after``: the number of the reading that moved the cursor there; without either no field has the cursor.

    What was sent before that, what was offered and not taken, and what has no known unit goes into the tray.
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
    """Return the unit of each gauge's bare numbers, by its name; those nobody has said are left out."""
    return dict(GaugeUnit.objects.filter(gauge__in=set(gauges)).values_list("gauge", "unit"))


def unit_of(reading: GaugeReading, units: dict[str, str]) -> str | None:
    """Return the unit that a reading's bare number takes, empty where it needs none; None where it must be asked."""
    return units.get(reading.gauge) if is_bare(reading.text) else ""


def say_unit(person: Person, gauge: str, unit: str) -> None:
    """Keep the unit of a gauge's bare numbers for the shop. Raises FaultsError for what is no unit."""
    refuse([] if unit in GaugeUnit.Unit.values else [Fault("unit", "inches, millimetres, thou, or none of them.")])
    refuse([] if len(gauge) <= LONGEST else [Fault("gauge", f"At most {LONGEST} letters.")])
    GaugeUnit.objects.update_or_create(shop=person.shop, gauge=gauge, defaults={"unit": unit})


def done(person: Person, number: int) -> None:
    """A page has taken a reading as a line of its own, or somebody threw it away."""
    GaugeReading.objects.filter(person=person, done_at=None, pk=number).update(done_at=timezone.now())
