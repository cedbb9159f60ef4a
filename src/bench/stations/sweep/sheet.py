"""The indicator sheet of one valve: the angles to read in running direction, what was read, where to read next."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from bench.page.bench import Asked, Bench, cylinder_asked, letter_or_refuse, mockup_in_hand
from bench.page.entering import Field, Reader, Saved, Wrong, instrument_choices, questions_by_key, record_line
from mockup.engine.valves import Place, Side
from mockup.instruments import FEELERS, INDICATOR
from mockup.quantity.shown import format_bench, format_both, format_degrees
from mockup.quantity.typed import LengthError, parse_bench_length
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.readings.sweep import SweepFigure, SweepReading
from mockup.record import standing
from mockup.words import TURNED_WORDS

USUAL_DEG = {Side.INTAKE: range(0, 21, 5), Side.EXHAUST: range(-20, 1, 5)}
"""Exhaust coming up to TDC, intake going away from it: always in running direction."""
WHEEL = [("yes", "the wheel was set right"), ("no", "the wheel reads as it was")]
FURTHEST = 90


@dataclass(frozen=True, slots=True)
class SweepInHand:
    """What the sheet says is in hand, kept from one saving to the next."""

    instrument: str
    wheel: str
    tilt: str
    drift: str
    turned: str


def in_hand(asked: Asked) -> SweepInHand:
    """What the sheet said with the fields, or what is usual."""
    posted = asked.POST
    return SweepInHand(
        posted.get("instrument", INDICATOR),
        posted.get("wheel", "yes"),
        posted.get("tilt", ""),
        posted.get("drift", ""),
        posted.get("turned", ""),
    )


def instruments(bench: Bench) -> list[tuple[str, str]]:
    """What a clearance may be read with."""
    return instrument_choices(bench, INDICATOR, FEELERS)


def key_of(place: Place) -> str:
    """What the address of a valve's sheet calls it."""
    return f"{place.side}-{place.number}"


def place_asked(asked: Asked, bench: Bench) -> Place:
    """The valve in the address; the cylinder's first where none of its valves is asked for."""
    places = bench.valves_of(cylinder_asked(asked, bench))
    return next((place for place in places if key_of(place) == asked.GET.get("valve")), places[0])


def readers(asked: Asked, bench: Bench) -> dict[str, Reader]:
    """How each field of the sheet is read."""
    place, hand, mockup = place_asked(asked, bench), in_hand(asked), mockup_in_hand(asked, bench, "sweep")

    def read(angle: float, text: str, *, drop: bool = False, by_turning: bool = False) -> SweepReading:
        letter = letter_or_refuse(mockup, "a reading needs its conditions")
        if hand.instrument not in dict(instruments(bench)):
            raise LengthError("Say what it was read with.")
        return SweepReading(
            key="",
            mockup=letter,
            place=place,
            crank_deg=float(angle),
            clearance_mm=parse_bench_length(text, bench.unit),
            drop=drop,
            by_turning=by_turning,
            turned_step_deg=_step(hand.turned) if by_turning else None,
            instrument=hand.instrument,
            tilt_deg=_tilt(hand.tilt),
            drift_mm=parse_bench_length(hand.drift, bench.unit) if hand.drift.strip() else 0.0,
            wheel_set=hand.wheel != "no",
        )

    def other(text: str) -> SweepReading:
        words, _, length = text.strip().rpartition(" ")
        if not words:
            raise LengthError("Type the angle and then the reading, as in 9 ATDC 94.")
        return read(parse_crank_angle(words, 180.0 if place.side is Side.INTAKE else -180.0), length)

    found: dict[str, Reader] = {f"sweep-{angle}": partial(read, angle) for angle in range(-FURTHEST, FURTHEST + 1)}
    return found | {
        "sweep-other": other,
        "sweep-drop": partial(read, 0.0, drop=True),
        "sweep-turning": partial(read, 0.0, by_turning=True),
    }


def _step(text: str) -> float | None:
    if text not in dict(TURNED_WORDS):
        raise LengthError("Say how the crank was turned for the smallest.")
    return float(text) if text else None


def _tilt(text: str) -> float:
    try:
        return float(text) if text.strip() else 0.0
    except ValueError:
        raise LengthError(f"“{text[:20]}” is not a tilt. Type degrees, as in 8.") from None


@dataclass(frozen=True, slots=True)
class SweepRow:
    """One angle of the sheet."""

    angle: str
    saved: list[Saved]
    field: Field
    tone: str


def rows(
    bench: Bench, place: Place, letter: str, figure: SweepFigure | None, wrong: Mapping[str, Wrong], *, enough: bool
) -> list[SweepRow]:
    """The usual angles, those that were read, and the next one to read until it is ``enough``, in running direction."""
    mine = [
        reading
        for reading in standing(bench.report.job.of(SweepReading))
        if reading.place == place and not (reading.drop or reading.by_turning)
    ]
    following = figure.closest.next_deg if figure and figure.closest and not enough else None
    angles = {float(angle) for angle in USUAL_DEG[place.side]} | {reading.crank_deg for reading in mine}
    if following is not None and abs(following) <= FURTHEST:
        angles.add(float(round(following)))
    questions = questions_by_key(bench)
    found = []
    for angle in sorted(angles):
        here = [reading for reading in mine if reading.crank_deg == angle]
        is_next = following is not None and round(following) == angle
        name = f"sweep-{angle:g}"
        field = Field(
            name,
            f"Clearance at {format_crank_angle(angle)}",
            "bench",
            wants=int((not here and (figure is None or figure.closest is None)) or is_next),
            wrong=wrong.get(name),
            mockup=letter,
        )
        saved = [saved_reading(bench, reading, questions, wrong) for reading in here]
        found.append(SweepRow(format_crank_angle(angle), saved, field, "is-next" if is_next else ""))
    return found


def saved_reading(
    bench: Bench, reading: SweepReading, questions: Mapping[str, str], wrong: Mapping[str, Wrong]
) -> Saved:
    """A reading in the book, as the sheet shows it."""
    record = reading.record
    tilt = f" · tilted {format_degrees(reading.tilt_deg)}" if reading.tilt_deg else ""
    tool = bench.instruments[reading.instrument].name
    return Saved(
        key=reading.key,
        text=format_bench(reading.clearance_mm, bench.unit),
        both=f"{format_both(reading.clearance_mm, bench.unit)} · {tool}, mock-up {reading.mockup}{tilt}",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
