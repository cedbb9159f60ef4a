"""Readings that need one field a place, from their kind's declaration alone."""

from dataclasses import dataclass
from functools import partial

from mockup.base.stations import Station
from mockup.engine.valves import Place
from mockup.readings.kinds import READING_KINDS, OneField, ReadAt, ReadingKind
from mockup.readings.record import Reading, standing
from web.page.build_page import Asked, BuildPage, cylinder_asked, letter_or_refuse, mockup_in_hand
from web.page.read_fields import Field, Reader, Saved, Wrong, questions_by_key, record_line

NEEDS_MOCKUP = "a reading needs its conditions"


@dataclass(frozen=True, slots=True)
class OneFieldRow:
    """One kind of reading at one place: its readings so far, and the field for one more."""

    label: str
    help_text: str
    saved: list[Saved]
    field: Field


def _kinds(station: Station) -> list[tuple[ReadingKind, OneField]]:
    return [(kind, kind.one_field) for kind in READING_KINDS if kind.station is station and kind.one_field]


def _places(said: OneField, page: BuildPage, cylinder: int) -> list[Place | None]:
    return list(page.valves_of(cylinder)) if said.of_a_valve else [None]


def _name(kind: ReadingKind, place: Place | None) -> str:
    return f"{kind.name}-{place.side}-{place.number}" if place else kind.name


def one_field_readers(asked: Asked, page: BuildPage, station: Station) -> dict[str, Reader]:
    """Return how each of these fields of a station is read, by name."""
    cylinder = cylinder_asked(asked, page)

    def read(kind: ReadingKind, said: OneField, place: Place | None, text: str) -> Reading:
        mockup = mockup_in_hand(asked, page, kind.name) if kind.in_a_mockup else None
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP) if kind.in_a_mockup else ""
        found: Reading = said.read(text, page.unit, ReadAt(cylinder, place, letter))
        return found

    return {
        _name(kind, place): partial(read, kind, said, place)
        for kind, said in _kinds(station)
        for place in _places(said, page, cylinder)
    }


def also_read(asked: Asked, page: BuildPage, station: Station, wrong: dict[str, Wrong]) -> list[OneFieldRow]:
    """Return the rows of these fields at the chosen cylinder."""
    cylinder = cylinder_asked(asked, page)
    return [
        _row(kind, said, place, cylinder, asked, page, wrong)
        for kind, said in _kinds(station)
        for place in _places(said, page, cylinder)
    ]


def _row(
    kind: ReadingKind,
    said: OneField,
    place: Place | None,
    cylinder: int,
    asked: Asked,
    page: BuildPage,
    wrong: dict[str, Wrong],
) -> OneFieldRow:
    name, questions = _name(kind, place), questions_by_key(page)
    here = [one for one in standing(page.report.job.of(kind.core)) if _is_at(one, place, cylinder)]
    where = place.label(page.report.job.engine.row(place.side).count) if place else f"cylinder {cylinder}"
    label = f"{said.label}, {where}"
    echo = next(iter(kind.echo), "bench")
    mockup = mockup_in_hand(asked, page, kind.name) if kind.in_a_mockup else None
    field = Field(name, label, echo, wants=0, wrong=wrong.get(name), mockup=mockup.letter if mockup else "")
    return OneFieldRow(label, said.help_text, [_saved(one, said, page, questions, wrong) for one in here], field)


def _is_at(reading: Reading, place: Place | None, cylinder: int) -> bool:
    if place:
        return getattr(reading, "place", None) == place
    return getattr(reading, "cylinder", cylinder) == cylinder


def _saved(
    reading: Reading, said: OneField, page: BuildPage, questions: dict[str, str], wrong: dict[str, Wrong]
) -> Saved:
    record, mockup = reading.record, getattr(reading, "mockup", "")
    return Saved(
        key=reading.key,
        text=said.shown(reading, page.unit),
        both=f"mock-up {mockup}" if mockup else "",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
