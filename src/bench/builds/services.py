"""Every way a build changes: each a named function, in one transaction. Nothing is edited or deleted."""

from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.utils import timezone

from bench.builds.kinds import Done, data_of, kind_of
from bench.builds.models import Build, Entry, MockUp
from bench.shops.models import Person
from mockup.faults import Fault, refuse

LONGEST_REASON = 200
LONGEST_TYPED = 200


def write(build: Build, item: Any, by: Person, *, typed: str = "", token: UUID | None = None) -> Entry | None:
    """Write a piece of the core into the book. Returns None where one with the same token already stands there."""
    entry = Entry(build=build, kind=kind_of(item), data=data_of(item), typed=typed[:LONGEST_TYPED], by=by, token=token)
    try:
        with transaction.atomic():
            entry.save(force_insert=True)
    except IntegrityError:
        if token and Entry.objects.filter(build=build, token=token).exists():
            return None
        raise
    return entry


@transaction.atomic
def strike(entry: Entry, by: Person, reason: str) -> None:
    """Strike an entry out, with the reason. Raises FaultsError without a reason; striking twice changes nothing."""
    reason = reason.strip()
    refuse([] if reason else [Fault("reason", "Say why it is struck out, as in dented by the caliper.")])
    refuse([] if len(reason) <= LONGEST_REASON else [Fault("reason", f"At most {LONGEST_REASON} characters.")])
    locked = Entry.objects.select_for_update(of=("self",)).get(pk=entry.pk)
    if not locked.struck_reason:
        locked.struck_reason, locked.struck_by, locked.struck_at = reason, by, timezone.now()
        locked.save(update_fields=["struck_reason", "struck_by", "struck_at"])


@transaction.atomic
def mark_done(build: Build, entry: Entry, by: Person) -> None:
    """Write down that a decided change has been done. Twice is once. Raises FaultsError for what is no change."""
    refuse([] if entry.kind == "change" else [Fault("change", "Only a decided change can be done.")])
    Build.objects.select_for_update().get(pk=build.pk)
    done = Entry.objects.filter(build=build, kind="done", data__change=entry.pk, struck_reason="")
    if not done.exists():
        write(build, Done(change=entry.pk), by)


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
    book = Entry.objects.filter(build=build)
    beyond = {
        *book.filter(data__cylinder__gt=build.cylinders).values_list("data__cylinder", flat=True),
        *book.filter(data__place__cylinder__gt=build.cylinders).values_list("data__place__cylinder", flat=True),
    }
    if beyond:
        faults.append(Fault("cylinders", f"Cylinder {max(beyond)} has readings; it cannot be taken away."))
    for side in ("intake", "exhaust"):
        count = getattr(build, f"{side}_count")
        if book.filter(data__place__side=side, data__place__number__gt=count).exists():
            faults.append(Fault(f"{side}_count", f"There are readings of {side} valve {count + 1}."))
    if book.filter(kind="change", data__bank__gt=0).exists() and build.layout == "inline":
        faults.append(Fault("layout", "A cut is written down for the second bank."))
    return faults


@transaction.atomic
def save_mockup(build: Build, by: Person, **conditions: Any) -> MockUp:
    """Set down a mock-up. One that readings were taken under is left as it is, and a new letter begun."""
    Build.objects.select_for_update().get(pk=build.pk)
    latest = MockUp.objects.filter(build=build).last()
    if latest is None or _read_under(build, latest):
        latest = MockUp(build=build, letter=next_letter(latest))
    for name, value in {**conditions, "by": by}.items():
        setattr(latest, name, value)
    latest.save()
    return latest


def _read_under(build: Build, mockup: MockUp) -> bool:
    lines = Entry.objects.filter(build=build, data__mockup=mockup.letter)
    return lines.exclude(kind="turning").exists()


def next_letter(latest: MockUp | None) -> str:
    """The letter of the mock-up after ``latest``: A, B … Z, then AA and on."""
    if latest is None:
        return "A"
    stem, last = latest.letter[:-1], latest.letter[-1]
    return stem + chr(ord(last) + 1) if last != "Z" else (chr(ord(stem) + 1) if stem else "A") + "A"


@transaction.atomic
def choose_sheet(build: Build, sheet: str) -> None:
    """Judge the build against another margin sheet."""
    build.sheet = sheet
    build.save(update_fields=["sheet"])
