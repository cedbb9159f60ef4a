"""Every way a build changes: each a named function, in one transaction.

Nothing is edited or deleted.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from copy import copy
from dataclasses import replace
from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.utils import timezone

from mockup.base.faults import Fault, refuse
from mockup.changes import affected
from mockup.changes.change import Change, ChangeKind
from mockup.engine.block import Engine
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.running import Running
from mockup.engine.valves import Side
from mockup.job import misplaced
from mockup.plans.what_if import WhatIf, steps_to_take
from mockup.plans.what_if import done as with_done
from mockup.quantity.fields import flat
from web.builds.assemble import assemble
from web.builds.entry_kinds import Copied, Done, Edited, data_of, item_of, kind_of, kinds_of_the_block
from web.builds.models import Build, Entry, MockUp
from web.builds.summaries import being_written, settle, settled
from web.builds.versions import as_it_is, mockup_as_it_is
from web.shops.models import Person

LONGEST_REASON = 200
LONGEST_TYPED = 200
LONGEST_READER = 200


@contextmanager
def locked(build: Build) -> Iterator[Build]:
    """Hold a build's row until a change is written, and yield the build as it is now.

    Raises Build.DoesNotExist.

    Its summary is written with it; nested changes write it once, at the end.
    """
    with transaction.atomic():
        held = being_written(build.pk)
        if held is not None:
            yield held
            return
        now = Build.objects.select_for_update().get(pk=build.pk)
        with settled(now):
            yield now


def write(
    build: Build, item: Any, by: Person, *, typed: str = "", token: UUID | None = None, read: tuple[str, str] = ("", "")
) -> Entry | None:
    """Write a piece of the core into the log.

    ``read``: by whom and when, if not by ``by`` now. Returns None where this person already wrote it with the same
    token. Raises FaultsError where the engine has no such place now: another person may just have removed it.
    """
    read_by, read_at = read
    fields = {"typed": typed[:LONGEST_TYPED], "token": token, "read_by": read_by[:LONGEST_READER], "read_at": read_at}
    with locked(build) as now:
        refuse(misplaced(item, now.engine))
        return _written(Entry(build=build, kind=kind_of(item), data=data_of(item), by=by, **fields))


def _written(entry: Entry) -> Entry | None:
    try:
        with transaction.atomic():
            entry.save(force_insert=True)
    except IntegrityError:
        if entry.token and Entry.objects.filter(by=entry.by, token=entry.token).exists():
            return None
        raise
    return entry


def strike(entry: Entry, by: Person, reason: str) -> None:
    """Strike an entry out with a reason.

    Raises FaultsError without a reason; striking twice changes nothing.
    """
    reason = reason.strip()
    refuse([] if reason else [Fault("reason", "Give the reason, as in dented by the caliper.")])
    refuse([] if len(reason) <= LONGEST_REASON else [Fault("reason", f"At most {LONGEST_REASON} characters.")])
    with locked(entry.build):
        line = Entry.objects.get(pk=entry.pk)
        if not line.struck_reason:
            line.struck_reason, line.struck_by, line.struck_at = reason, by, timezone.now()
            line.save(update_fields=["struck_reason", "struck_by", "struck_at"])


def mark_done(build: Build, entry: Entry, by: Person) -> None:
    """Record that a decided change was done; twice counts once.

    Raises FaultsError for anything else.
    """
    refuse([] if entry.kind == "change" else [Fault("change", "Only a decided change can be marked done.")])
    with locked(build) as now:
        done = Entry.objects.filter(build=build, kind="done", data__change=entry.pk, struck_reason="")
        if done.exists():
            return
        change = item_of("change", entry.data, key=entry.key)
        before = assemble(now)
        after = with_done(before, change)
        # Shims and pushrods that were put in are what the engine will run with: chosen, as a what-if assumes.
        were = (*before.final_shims, before.pushrod_choice)
        for item in (*after.final_shims, after.pushrod_choice):
            if item and item not in were:
                write(build, item, by)
        write(build, Done(change=entry.pk), by)
        _mock_up_again(build, change, by)


def _mock_up_again(build: Build, change: Change, by: Person) -> None:
    """Start the mock-up for the readings that prove a change, with the last conditions."""
    latest = MockUp.objects.filter(build=build).last()
    if latest is None:
        return
    other = change.kind.mocks_up(change, latest.core) if change.kind.mocks_up else {}
    if other or any(change.kind.effect_on(what) for what in (affected.FACE, affected.EDGE)):
        save_mockup(build, by, replace(latest.core, **other))


def save_build(build: Build, by: Person, *, engine: Engine | None = None, as_it_was: str = "", **changes: Any) -> Build:
    """Start a build in the person's shop, or change its engine and bookkeeping.

    ``as_it_was``: the value of ``as_it_is`` when the person began to edit. Raises FaultsError where another person
    changed it since, and where readings would refer to a missing cylinder or valve.
    """
    if not build.pk:
        with transaction.atomic():
            _save_build(build, by, engine, changes)
            settle(build)
            return build
    with locked(build) as now:
        refuse(_changed_since(now, as_it_was, as_it_is(now)))
        _save_build(now, by, engine, changes)
    build.refresh_from_db()
    return build


def _changed_since(build: Build, was: str, now: str) -> list[Fault]:
    """Return a fault that says who changed what since a page was opened, or none."""
    if not was or was == now:
        return []
    line = Entry.objects.filter(build=build, kind="edited").prefetch_related("by").last()
    by = f" by {line.by.shown_name}" if line else ""
    what = (
        "; ".join(f"{name.replace('_', ' ')} {old} → {new}" for name, old, new in line.data["changes"]) if line else ""
    )
    said = f": {what}" if what else ""
    return [
        Fault(
            "as_it_was",
            f"Changed{by} since you opened this{said}. What you typed is still here: save again to keep "
            "yours, or reload the page to use theirs.",
        )
    ]


def _save_build(build: Build, by: Person, engine: Engine | None, changes: dict[str, Any]) -> Build:
    edited = _edited(build, engine, changes)
    for name, value in changes.items():
        setattr(build, name, value)
    if engine:
        build.keep(engine)
    if build.pk:
        refuse(_orphans(build))
    else:
        assert by.shop is not None
        build.shop = by.shop
    build.save()
    if edited:
        write(build, Edited(changes=edited), by)
    return build


def _edited(build: Build, engine: Engine | None, changes: dict[str, Any]) -> tuple[tuple[str, str, str], ...]:
    """Return what is about to change: name, old value, new value; empty for a new build."""
    if not build.pk:
        return ()
    were = {name: getattr(build, name) for name in changes}
    if engine:
        were, changes = were | flat(build.engine), changes | flat(engine)
    return tuple((name, _said(were[name]), _said(value)) for name, value in changes.items() if were[name] != value)


def _said(value: Any) -> str:
    if isinstance(value, tuple):
        return ("-" if all(isinstance(one, int) for one in value) else ", ").join(map(str, value))
    return "not stated" if value is None else str(value)


def _orphans(build: Build) -> list[Fault]:
    faults = []
    log = Entry.objects.filter(build=build)
    engine = build.engine
    beyond = {
        *log.filter(data__cylinder__gt=engine.cylinders).values_list("data__cylinder", flat=True),
        *log.filter(data__place__cylinder__gt=engine.cylinders).values_list("data__place__cylinder", flat=True),
    }
    if beyond:
        faults.append(Fault("cylinders", f"Cylinder {max(beyond)} has readings; it cannot be taken away."))
    for side in Side:
        count = engine.row(side).count
        if log.filter(data__place__side=side, data__place__number__gt=count).exists():
            faults.append(
                Fault(f"{side}_count", f"There are readings of {side} valve {count + 1}; it cannot be taken away.")
            )
    if log.filter(kind="change", data__bank__gt=0).exists() and len(engine.banks) == 1:
        faults.append(Fault("layout", "A cut is recorded for the second bank."))
    return faults


def save_mockup(build: Build, by: Person, conditions: CoreMockUp, as_it_was: str = "") -> MockUp:
    """Save a mock-up. One with readings is left as it is, and the next letter is begun.

    Changes in place are written into the log. ``as_it_was``: the value of ``mockup_as_it_is`` when the person began;
    raises FaultsError where another person saved one since.
    """
    with locked(build):
        latest = MockUp.objects.filter(build=build).last()
        refuse(_mocked_up_since(latest, as_it_was))
        before = None
        if latest is None or _read_under(build, latest):
            latest = MockUp(build=build, letter=next_letter(latest))
        else:
            before = latest.core
        latest.by = by
        latest.keep(conditions)
        latest.save()
        if before is not None:
            _write_what_changed(build, before, latest, by)
        return latest


def _mocked_up_since(latest: MockUp | None, was: str) -> list[Fault]:
    if latest is None or not was or was == mockup_as_it_is(latest):
        return []
    words = f"{latest.by.shown_name} saved mock-up {latest.letter} since you opened this"
    return [Fault("as_it_was", f"{words}. It is shown below. What you typed is still here: save it again.")]


def _write_what_changed(build: Build, before: CoreMockUp, latest: MockUp, by: Person) -> None:
    were, are = flat(before), flat(latest.core)
    changed = tuple(
        (f"mock-up {latest.letter} {name}", _said(were[name]), _said(value))
        for name, value in are.items()
        if were[name] != value
    )
    if changed:
        write(build, Edited(changes=changed), by)


def _read_under(build: Build, mockup: MockUp) -> bool:
    lines = Entry.objects.filter(build=build, data__mockup=mockup.letter)
    return lines.exclude(kind="turning").exists()


def next_letter(latest: MockUp | None) -> str:
    """Return the letter of the mock-up after ``latest``: A, B … Z, then AA and on."""
    if latest is None:
        return "A"
    stem, last = latest.letter[:-1], latest.letter[-1]
    return stem + chr(ord(last) + 1) if last != "Z" else (chr(ord(stem) + 1) if stem else "A") + "A"


def put_away(build: Build, by: Person, *, away: bool = True) -> None:
    """Put a build away, or bring it back; nothing is lost. Repeating it changes nothing."""
    with locked(build) as now:
        if away == (now.put_away_at is not None):
            return
        now.put_away_at = timezone.now() if away else None
        now.save(update_fields=["put_away_at"])
        where = ("in the list", "put away")
        write(now, Edited(changes=(("it stands", where[not away], where[away]),)), by)


def choose_limits(build: Build, limits: str, by: Person) -> None:
    """Judge the build by another set of limits."""
    save_build(build, by, limits=limits)


def plan(build: Build, what_if: WhatIf, running: Running | None, by: Person) -> None:
    """Turn a what-if into decided changes; another speed or rod goes into the estimate.

    Raises FaultsError where it is empty.
    """
    moves_running = running is not None and (what_if.rpm is not None or what_if.rod is not None)
    refuse([] if what_if.changes or moves_running else [Fault("changes", "Nothing is changed yet.")])
    with locked(build):
        for change in steps_to_take(what_if):
            write(build, change, by, typed=what_if.name)
        if running is not None and moves_running:
            rpm = running.rpm if what_if.rpm is None else what_if.rpm
            write(build, replace(running, rpm=rpm, rod=what_if.rod or running.rod), by, typed=what_if.name)


def keep_what_if(build: Build, what_if: WhatIf, by: Person) -> None:
    """Store a what-if under its name. Raises FaultsError where it has none, or changes nothing."""
    refuse([] if what_if.name else [Fault("name", "Give it a name, so that you can tell it from others.")])
    refuse([Fault("changes", "Nothing is changed yet.")] if what_if.is_empty else [])
    write(build, what_if, by, typed=what_if.name)


def copy_build(build: Build, by: Person, name: str) -> Build:
    """Start the next build with this block: engine, decks, volumes, stack, limits, cuts.

    Cam, mock-ups and everything read of a valve stay behind, as do changes of cam, rockers and lash. Raises
    FaultsError without a name.
    """
    name = name.strip()
    refuse([] if 0 < len(name) <= 120 else [Fault("name", "Give the next build a name, up to 120 characters.")])
    with locked(build) as now:
        fresh = _copied(now, by, name)
        settle(fresh)
        return fresh


def _copied(build: Build, by: Person, name: str) -> Build:
    fresh = copy(build)
    fresh.pk, fresh.name, fresh.subtitle, fresh.put_away_at = None, name, "", None
    fresh.first_of_block_id = build.first_of_block_id or build.pk
    fresh.save(force_insert=True)
    renamed: dict[int, int] = {}
    kept = Entry.objects.filter(build=build, kind__in=kinds_of_the_block(), struck_reason="")
    for row in kept.prefetch_related("by"):
        data = dict(row.data)
        if row.kind == "change" and ChangeKind.named(data["kind"]).of_the_train:
            continue
        if row.kind == "done":
            if data["change"] not in renamed:
                continue
            data["change"] = renamed[data["change"]]
        was = row.pk
        read = {"read_by": row.read_by or row.by.shown_name, "read_at": row.read_at or row.read.isoformat()}
        copied = Entry.objects.create(build=fresh, kind=row.kind, data=data, typed=row.typed, by=by, **read)
        renamed[was] = copied.pk
    write(fresh, Copied(of=str(build)), by)
    return fresh
