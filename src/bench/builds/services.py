"""Every way a build changes: each a named function, in one transaction. Nothing is edited or deleted."""

from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.utils import timezone

from bench.builds.models import Build, ClayReading, DeckReading, Entry, LimitEdit, MockUp
from bench.shops.models import Person
from mockup.faults import Fault, refuse

LONGEST_REASON = 200


def write(entry: Entry, by: Person, token: UUID | None = None) -> bool:
    """Write an entry into the book. Returns False where one with the same token already stands there."""
    entry.by = by
    entry.token = token
    try:
        with transaction.atomic():
            entry.save(force_insert=True)
    except IntegrityError:
        if token and type(entry).objects.filter(build=entry.build, token=token).exists():
            return False
        raise
    return True


@transaction.atomic
def strike(entry: Entry, by: Person, reason: str) -> None:
    """Strike an entry out, with the reason. Raises FaultsError without a reason; striking twice changes nothing."""
    reason = reason.strip()
    refuse([] if reason else [Fault("reason", "Say why it is struck out, as in dented by the caliper.")])
    refuse([] if len(reason) <= LONGEST_REASON else [Fault("reason", f"At most {LONGEST_REASON} characters.")])
    locked = type(entry).objects.select_for_update(of=("self",)).get(pk=entry.pk)
    if not locked.struck_reason:
        locked.struck_reason, locked.struck_by, locked.struck_at = reason, by, timezone.now()
        locked.save(update_fields=["struck_reason", "struck_by", "struck_at"])


@transaction.atomic
def save_build(build: Build, by: Person, **changes: Any) -> Build:
    """Begin a build in the person's shop, or change one's engine and book-keeping.

    Raises FaultsError where readings would be left pointing at a cylinder or valve that is gone.
    """
    for name, value in changes.items():
        setattr(build, name, value)
    if build.pk:
        refuse(_orphans(build))
    else:
        assert by.shop is not None
        build.shop = by.shop
    build.save()
    return build


def _orphans(build: Build) -> list[Fault]:
    faults = []
    beyond = [
        *DeckReading.objects.filter(build=build, cylinder__gt=build.cylinders).values_list("cylinder", flat=True),
        *ClayReading.objects.filter(build=build, cylinder__gt=build.cylinders).values_list("cylinder", flat=True),
    ]
    if beyond:
        faults.append(Fault("cylinders", f"Cylinder {max(beyond)} has readings; it cannot be taken away."))
    for side in ("intake", "exhaust"):
        count = getattr(build, f"{side}_count")
        if ClayReading.objects.filter(build=build, side=side, valve__gt=count).exists():
            faults.append(Fault(f"{side}_count", f"There are readings of {side} valve {count + 1}."))
    return faults


@transaction.atomic
def save_mockup(build: Build, by: Person, **conditions: Any) -> MockUp:
    """Set down a mock-up. One that readings were taken under is left as it is, and a new letter begun."""
    Build.objects.select_for_update().get(pk=build.pk)
    latest = MockUp.objects.filter(build=build).last()
    if latest is None or latest.clay_readings.exists():
        latest = MockUp(build=build, letter=next_letter(latest))
    for name, value in {**conditions, "by": by}.items():
        setattr(latest, name, value)
    latest.save()
    return latest


def next_letter(latest: MockUp | None) -> str:
    """The letter of the mock-up after ``latest``: A, B … Z, then AA and on."""
    if latest is None:
        return "A"
    stem, last = latest.letter[:-1], latest.letter[-1]
    return stem + chr(ord(last) + 1) if last != "Z" else (chr(ord(stem) + 1) if stem else "A") + "A"


@transaction.atomic
def edit_limit(build: Build, by: Person, limit: str, value: float | None, reason: str, typed: str = "") -> None:
    """Change one limit for this build; earlier edits of it stay in the book, this one holds."""
    write(LimitEdit(build=build, limit=limit, value=value, reason=reason, typed=typed), by)


@transaction.atomic
def choose_sheet(build: Build, sheet: str) -> None:
    """Judge the build against another margin sheet."""
    build.sheet = sheet
    build.save(update_fields=["sheet"])
