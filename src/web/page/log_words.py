"""The entries of the log in words: what was done, by whom and when."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.utils import timezone

from mockup.changes.change import Change
from mockup.changes.since import change_words
from mockup.engine.valves import Place, Side
from mockup.quantity.shown import bench_text
from mockup.quantity.value import Unit
from mockup.readings.clay import Gap
from mockup.readings.kinds import READING_KINDS
from mockup.words.report_text import limit_value_text
from web.builds.entry_kinds import is_reading, item_of, words_of
from web.builds.models import Entry
from web.page.build_page import BuildPage
from web.shops.clock import stamp


@dataclass(frozen=True, slots=True)
class Written:
    """One event: kind, place, text; by whom and when; struck out by whom, when and why."""

    at: str
    by: str
    kind: str
    where: str
    what: str
    struck: str
    is_reading: bool
    mockup: str
    pictures: tuple[int, ...] = ()


def written(page: BuildPage) -> list[Written]:
    """Return everything that happened to a build, oldest first: its log and its mock-ups."""
    entries = {row.pk: row for row in page.log}
    shown, others = _pictures(page)
    lines = [(row.at, replace(_line(row, entries, page), pictures=shown.get(row.pk, ()))) for row in page.log]
    lines += [(row.at, _mockup(row)) for row in page.mockups]
    lines += others
    return [line for _, line in sorted(lines, key=lambda pair: pair[0])]


def _pictures(page: BuildPage) -> tuple[dict[int, tuple[int, ...]], list[tuple[datetime, Written]]]:
    """Return the pictures of each entry, and an event for each one added or removed."""
    shown: dict[int, tuple[int, ...]] = {}
    lines = []
    for row, entries in page.pictures:
        for entry in entries if row.removed_at is None else ():
            shown[entry] = (*shown.get(entry, ()), row.pk)
        struck = ""
        if row.removed_at and row.removed_by:
            when = f"{timezone.localtime(row.removed_at):%Y-%m-%d %H:%M}"
            struck = f"{row.removed_by.shown_name}, {when}: {row.removed_reason}"
        line = Written(
            at=stamp(row.at)[:19].replace("T", " "),
            by=row.by.shown_name,
            kind="picture",
            where=f"mock-up {row.mockup}" if row.mockup else "",
            what=str(row),
            struck=struck,
            is_reading=False,
            mockup="",
            pictures=() if row.removed_at else (row.pk,),
        )
        lines.append((row.at, line))
    return shown, lines


def _line(row: Entry, entries: dict[int, Entry], page: BuildPage) -> Written:
    struck = ""
    if row.struck_reason:
        when = f"{timezone.localtime(row.struck_at):%Y-%m-%d %H:%M}" if row.struck_at else ""
        struck = f"{row.struck_by.shown_name if row.struck_by else ''}, {when}: {row.struck_reason}"
    return Written(
        at=(row.read_at or stamp(row.read))[:19].replace("T", " "),
        by=row.read_by or row.by.shown_name,
        kind=words_of(row.kind),
        where=where_of(row, page),
        what=_what(row, entries, page.unit),
        struck=struck,
        is_reading=is_reading(row.kind),
        mockup=str(row.data.get("mockup", "")),
    )


def _mockup(row: Any) -> Written:
    words = ", ".join(filter(None, (row.core.head, f"gasket {row.core.gasket_state}", f"{row.core.lifters} lifters")))
    at = stamp(row.at)[:19].replace("T", " ")
    return Written(at, row.by.shown_name, "mock-up saved", row.letter, words, "", is_reading=False, mockup=row.letter)


def where_of(row: Entry, page: BuildPage) -> str:
    """Return an entry's place in words: a valve, a cylinder, a part; empty for the whole engine."""
    data, engine = row.data, page.report.job.engine
    if data.get("place"):
        kept = data["place"]
        place = Place(kept["cylinder"], Side(kept["side"]), kept["number"])
        valve = place.label(engine.row(place.side).count)
        return f"{valve} edge" if data.get("gap") == Gap.RADIAL else valve
    parts = [str(data[name]) for name in ("cylinder", "part", "spot", "side") if data.get(name)]
    return " ".join(part for part in parts if part not in ("centre",))


def _what(row: Entry, entries: dict[int, Entry], unit: Unit) -> str:
    """Return what was typed where that is clear, else the entry in words."""
    if row.kind == "change":
        return _change(row, unit)
    if row.kind == "done":
        decided = entries.get(row.data["change"])
        return _change(decided, unit) if decided else ""
    if row.kind == "limit":
        item = item_of(row.kind, row.data)
        return f"{item.limit.replace('_', ' ')}: {limit_value_text(item.value, item.limit, unit)}. {item.reason}"
    reading = READING_KINDS.named(row.kind)
    if reading:
        return reading.what(item_of(row.kind, row.data), row.typed, unit) if reading.what else row.typed
    words = _BY_KIND.get(row.kind)
    return words(row.data, unit) if words else row.typed


def _edited(data: dict[str, Any], _unit: Unit) -> str:
    return "; ".join(f"{name.replace('_', ' ')} {was or '—'} → {now or '—'}" for name, was, now in data["changes"])


def _assembly(data: dict[str, Any], _unit: Unit) -> str:
    state = "left out" if data["out"] else ("done" if data["done"] else "")
    return ": ".join(filter(None, (data["words"] or data["key"], state)))


_BY_KIND: dict[str, Callable[[dict[str, Any], Unit], str]] = {
    "sign-off": lambda data, _unit: f"{data['check']}, {data['state']}: {data['reason']}",
    "edited": _edited,
    "assembly": _assembly,
    "block-limit": lambda data, unit: (
        f"deck cut in all up to {bench_text(data['deck_cut_mm'], unit)}, {data['said']}".rstrip(", ")
    ),
    "parts": lambda data, unit: f"± {bench_text(data['u_mm'], unit)}, {data['said']}".rstrip(", "),
    "copied": lambda data, _unit: str(data["of"]),
    "signature": lambda data, _unit: str(data["note"]),
    "turning": lambda data, _unit: ", ".join(data["checked"]),
}


def _change(row: Entry, unit: Unit) -> str:
    change: Change = item_of("change", row.data, key=row.key)
    return change_words(change, unit)


def gathered(lines: Iterable[Written]) -> list[Written]:
    """Return the events with readings of one thing by one person on one day joined in one line."""
    found: dict[tuple[str, ...], Written] = {}
    for line in lines:
        key = (line.kind, line.where, line.mockup, line.by, line.at[:10])
        before = found.get(key)
        what = f"{before.what}; {line.what}" if before else line.what
        found[key] = replace(line, what=what, at=line.at[:10])
    return list(found.values())
