"""What is read at a station by one field a place, as its kind declares it: no sheet, form or template of its own."""

from dataclasses import dataclass
from functools import partial

from bench.page.bench import Asked, Bench, cylinder_asked, letter_or_refuse, mockup_in_hand
from bench.page.entering import Field, Reader, Saved, Wrong, questions_by_key, record_line
from mockup.engine.valves import Place
from mockup.reading_kinds import READING_KINDS, OneField, ReadAt, ReadingKind
from mockup.record import Reading, standing
from mockup.stations import Station

NEEDS_MOCKUP = "a reading needs its conditions"


@dataclass(frozen=True, slots=True)
class OneFieldRow:
    """One kind of reading at one place: what was read, and the field for one more."""

    label: str
    help_text: str
    saved: list[Saved]
    field: Field


def _kinds(station: Station) -> list[tuple[ReadingKind, OneField]]:
    return [(kind, kind.one_field) for kind in READING_KINDS if kind.station is station and kind.one_field]


def _places(said: OneField, bench: Bench, cylinder: int) -> list[Place | None]:
    return list(bench.valves_of(cylinder)) if said.of_a_valve else [None]


def _name(kind: ReadingKind, place: Place | None) -> str:
    return f"{kind.name}-{place.side}-{place.number}" if place else kind.name


def one_field_readers(asked: Asked, bench: Bench, station: Station) -> dict[str, Reader]:
    """How each of these fields of a station is read, by its name."""
    cylinder = cylinder_asked(asked, bench)

    def read(kind: ReadingKind, said: OneField, place: Place | None, text: str) -> Reading:
        mockup = mockup_in_hand(asked, bench, kind.name) if kind.in_a_mockup else None
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP) if kind.in_a_mockup else ""
        found: Reading = said.read(text, bench.unit, ReadAt(cylinder, place, letter))
        return found

    return {
        _name(kind, place): partial(read, kind, said, place)
        for kind, said in _kinds(station)
        for place in _places(said, bench, cylinder)
    }


def also_read(asked: Asked, bench: Bench, station: Station, wrong: dict[str, Wrong]) -> list[OneFieldRow]:
    """The rows of these fields at the cylinder in hand."""
    cylinder = cylinder_asked(asked, bench)
    return [
        _row(kind, said, place, cylinder, asked, bench, wrong)
        for kind, said in _kinds(station)
        for place in _places(said, bench, cylinder)
    ]


def _row(
    kind: ReadingKind,
    said: OneField,
    place: Place | None,
    cylinder: int,
    asked: Asked,
    bench: Bench,
    wrong: dict[str, Wrong],
) -> OneFieldRow:
    name, questions = _name(kind, place), questions_by_key(bench)
    here = [one for one in standing(bench.report.job.of(kind.core)) if _is_at(one, place, cylinder)]
    where = place.label(bench.report.job.engine.row(place.side).count) if place else f"cylinder {cylinder}"
    label = f"{said.label}, {where}"
    echo = next(iter(kind.echo), "bench")
    mockup = mockup_in_hand(asked, bench, kind.name) if kind.in_a_mockup else None
    field = Field(name, label, echo, wants=0, wrong=wrong.get(name), mockup=mockup.letter if mockup else "")
    return OneFieldRow(label, said.help_text, [_saved(one, said, bench, questions, wrong) for one in here], field)


def _is_at(reading: Reading, place: Place | None, cylinder: int) -> bool:
    if place:
        return getattr(reading, "place", None) == place
    return getattr(reading, "cylinder", cylinder) == cylinder


def _saved(reading: Reading, said: OneField, bench: Bench, questions: dict[str, str], wrong: dict[str, Wrong]) -> Saved:
    record, mockup = reading.record, getattr(reading, "mockup", "")
    return Saved(
        key=reading.key,
        text=said.shown(reading, bench.unit),
        both=f"mock-up {mockup}" if mockup else "",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
