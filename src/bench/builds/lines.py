"""Write lines that left somebody's hand into a build's log: each once, in order, however often they are sent."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.utils import timezone

from bench.builds.kinds import data_of, kind_of, words_of
from bench.builds.models import Build, Entry
from bench.builds.services import LONGEST_TYPED, locked, strike
from bench.shops.models import Person
from mockup.faults import Fault, FaultsError, message_of, refuse
from mockup.job import misplaced
from mockup.quantity.typed import LengthError
from mockup.reading_kinds import READING_KINDS

AT_ONCE = timedelta(seconds=10)
"""So long after a reading was written, taking it back is no correction of the book but a slip of the hand."""


@dataclass(frozen=True, slots=True)
class Sent:
    """A line as it was sent: ``read`` returns its piece of the core, or raises what is wrong with it."""

    token: UUID
    text: str
    typed_at: datetime
    read: Callable[[], Any]


@dataclass(frozen=True, slots=True)
class Fate:
    """What became of a line: written (``why`` empty), or not taken and why."""

    token: UUID
    why: str = ""


def write_lines(build: Build, lines: Sequence[Sent], by: Person) -> list[Fate]:
    """Write what can be read, in order, into a build whose row is locked. Return the fate of each line, shape (n,).

    A line that was written before is written: its answer was lost. A refused line does not hold up the others.
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
    # The same token written elsewhere at this very moment fails the whole; sent again, it is known.
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
    """Return why a line whose token is in the log already is not taken; empty where it is the same line."""
    same = known.build_id == build.pk and known.kind == kind_of(item) and known.data == data_of(item)
    return "" if same else _in_the_log(known)


def _in_the_log(known: Entry) -> str:
    return f"This reading is in the log already: {words_of(known.kind)} “{known.typed}” of {known.build}."


def last_of(build: Build, by: Person) -> Entry | None:
    """The reading somebody wrote last in a build, of those that stand."""
    mine = Entry.objects.filter(build=build, by=by, struck_reason="")
    found: Entry | None = mine.filter(kind__in=[kind.name for kind in READING_KINDS]).last()
    return found


def undo(entry: Entry, by: Person) -> None:
    """Strike out one's own last reading, with a reason that says how soon.

    Raises FaultsError where one has written another since, or somebody struck it out: what the key meant is gone.
    """
    with locked(entry.build) as now:
        last = last_of(now, by)
        refuse([] if last and last.pk == entry.pk else [Fault("undo", "That is no longer your last reading here.")])
        at_once = timezone.now() - entry.at <= AT_ONCE
        strike(entry, by, "taken back at once" if at_once else "typed wrong")
