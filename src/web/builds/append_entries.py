"""Append sent entries to a build's log: each once, in order, however often they are sent."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.utils import timezone

from mockup.base.faults import Fault, FaultsError, message_of, refuse
from mockup.job import misplaced
from mockup.quantity.typed import LengthError
from mockup.readings.kinds import READING_KINDS
from web.builds.entry_kinds import data_of, kind_of, words_of
from web.builds.models import Build, Entry
from web.builds.services import LONGEST_TYPED, locked, strike
from web.shops.models import Person

AT_ONCE = timedelta(seconds=10)
"""Undoing a reading within this time is a slip of the hand, not a correction of the log."""


@dataclass(frozen=True, slots=True)
class Sent:
    """An entry as sent: ``read`` returns its piece of the core, or raises what is wrong with it."""

    token: UUID
    text: str
    typed_at: datetime
    read: Callable[[], Any]


@dataclass(frozen=True, slots=True)
class Fate:
    """The outcome of an entry: written (``why`` empty), or the reason it was not."""

    token: UUID
    why: str = ""


def append_entries(build: Build, lines: Sequence[Sent], by: Person) -> list[Fate]:
    """Append the readable entries, in order, to a build whose row is locked.

    Return each one's outcome, shape (n,).

    An entry that was already written counts as written: its answer was lost. A refused entry does not hold up the
    others.
    """
    before = {entry.token: entry for entry in Entry.objects.filter(by=by, token__in=[line.token for line in lines])}
    fates: dict[UUID, Fate] = {}
    entries: dict[UUID, Entry] = {}
    for line in lines:
        if line.token in fates or line.token in entries:
            continue
        try:
            item = line.read()
            refuse(misplaced(item, build.engine))
        except (LengthError, FaultsError) as error:
            known = before.get(line.token)
            written = known is not None and known.build_id == build.pk
            fates[line.token] = Fate(line.token, "" if written else message_of(error))
            continue
        if line.token in before:
            fates[line.token] = Fate(line.token, _elsewhere(before[line.token], build, item))
        else:
            entries[line.token] = _entry(build, item, line, by)
    # The same token written elsewhere at this moment fails the whole batch; sent again, it is known.
    Entry.objects.bulk_create(entries.values())
    fates.update({token: Fate(token) for token in entries})
    return [fates[line.token] for line in lines]


def _entry(build: Build, item: Any, line: Sent, by: Person) -> Entry:
    return Entry(
        build=build,
        kind=kind_of(item),
        data=data_of(item),
        typed=line.text[:LONGEST_TYPED],
        by=by,
        token=line.token,
        typed_at=line.typed_at,
    )


def _elsewhere(known: Entry, build: Build, item: Any) -> str:
    """Return why an entry with a known token is refused; empty for the same entry."""
    same = known.build_id == build.pk and known.kind == kind_of(item) and known.data == data_of(item)
    return "" if same else _in_the_log(known)


def _in_the_log(known: Entry) -> str:
    return f"This reading is in the log already: {words_of(known.kind)} “{known.typed}” of {known.build}."


def last_of(build: Build, by: Person) -> Entry | None:
    """Return the last valid reading a person wrote in a build, or None."""
    mine = Entry.objects.filter(build=build, by=by, struck_reason="")
    found: Entry | None = mine.filter(kind__in=[kind.name for kind in READING_KINDS]).last()
    return found


def undo(entry: Entry, by: Person) -> None:
    """Strike out one's own last reading, with a reason that tells how soon.

    Raises FaultsError where the person has written another since, or it was struck out meanwhile.
    """
    with locked(entry.build) as now:
        last = last_of(now, by)
        refuse([] if last and last.pk == entry.pk else [Fault("undo", "That is no longer your last reading here.")])
        at_once = timezone.now() - entry.at <= AT_ONCE
        strike(entry, by, "taken back at once" if at_once else "typed wrong")
