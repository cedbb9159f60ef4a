"""The indicator form of one valve: angles, readings, where to read next."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from mockup.engine.valves import Place, Side
from mockup.fit.swept_valve import SweepFigure
from mockup.quantity.shown import format_bench, format_degrees
from mockup.quantity.typed import LengthError, parse_bench_length
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.typed_gap import GapTyped, format_gap, parse_gap, split_before_gap
from mockup.readings.instruments import FEELERS, INDICATOR
from mockup.readings.record import standing
from mockup.readings.sweep import SweepReading
from mockup.words.report_text import TURNED_WORDS
from web.page.build_page import Asked, BuildPage, cylinder_asked, letter_or_refuse, mockup_in_hand
from web.page.read_fields import Field, Reader, Saved, Wrong, instrument_choices, questions_by_key, record_line

USUAL_DEG = {Side.INTAKE: range(0, 21, 5), Side.EXHAUST: range(-20, 1, 5)}
"""The usual angles: exhaust coming up to TDC, intake going away from it, always in running direction."""
WHEEL = [("yes", "the wheel was corrected"), ("no", "the wheel reads as it was")]
FURTHEST = 90


@dataclass(frozen=True, slots=True)
class SweepInHand:
    """The choices of the form, kept from one saving to the next."""

    instrument: str
    wheel: str
    tilt: str
    drift: str
    turned: str


def in_hand(asked: Asked) -> SweepInHand:
    """Return the choices sent with the fields, or the usual ones."""
    posted = asked.POST
    return SweepInHand(
        posted.get("instrument", INDICATOR),
        posted.get("wheel", "yes"),
        posted.get("tilt", ""),
        posted.get("drift", ""),
        posted.get("turned", ""),
    )


def instruments(page: BuildPage) -> list[tuple[str, str]]:
    """Return the instruments for a clearance."""
    return instrument_choices(page, INDICATOR, FEELERS)


def key_of(place: Place) -> str:
    """Return a valve's key in addresses."""
    return f"{place.side}-{place.number}"


def place_asked(asked: Asked, page: BuildPage) -> Place:
    """Return the valve in the address; the cylinder's first where it is missing."""
    places = page.valves_of(cylinder_asked(asked, page))
    return next((place for place in places if key_of(place) == asked.GET.get("valve")), places[0])


def readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    """Return how each field of the form is read."""
    place, hand, mockup = place_asked(asked, page), in_hand(asked), mockup_in_hand(asked, page, "sweep")

    def read(angle: float, text: str, *, drop: bool = False, by_turning: bool = False) -> SweepReading:
        letter = letter_or_refuse(mockup, "a reading needs its conditions")
        if hand.instrument not in dict(instruments(page)):
            raise LengthError("Choose the instrument.")
        typed = parse_gap(text, page.unit)
        return SweepReading(
            key="",
            mockup=letter,
            place=place,
            crank_deg=float(angle),
            clearance_mm=typed.mm,
            half_width_mm=typed.half_width_mm,
            drop=drop,
            by_turning=by_turning,
            turned_step_deg=_step(hand.turned) if by_turning else None,
            instrument=hand.instrument,
            tilt_deg=_tilt(hand.tilt),
            drift_mm=parse_bench_length(hand.drift, page.unit) if hand.drift.strip() else 0.0,
            wheel_set=hand.wheel != "no",
        )

    def other(text: str) -> SweepReading:
        words, gap = split_before_gap(text)
        return read(parse_crank_angle(words, 180.0 if place.side is Side.INTAKE else -180.0), gap)

    found: dict[str, Reader] = {f"sweep-{angle}": partial(read, angle) for angle in range(-FURTHEST, FURTHEST + 1)}
    return found | {
        "sweep-other": other,
        "sweep-drop": partial(read, 0.0, drop=True),
        "sweep-turning": partial(read, 0.0, by_turning=True),
    }


def _step(text: str) -> float | None:
    if text not in dict(TURNED_WORDS):
        raise LengthError("Choose how the crank was turned for the smallest.")
    return float(text) if text else None


def _tilt(text: str) -> float:
    try:
        return float(text) if text.strip() else 0.0
    except ValueError:
        raise LengthError(f"“{text[:20]}” is not a tilt. Type degrees, as in 8.") from None


@dataclass(frozen=True, slots=True)
class SweepRow:
    """One angle of the form."""

    angle: str
    saved: list[Saved]
    field: Field
    tone: str


def rows(
    page: BuildPage, place: Place, letter: str, figure: SweepFigure | None, wrong: Mapping[str, Wrong], *, enough: bool
) -> list[SweepRow]:
    """Return the usual angles, those read, and the next one, in running direction."""
    mine = [
        reading
        for reading in standing(page.report.job.of(SweepReading))
        if reading.place == place and not (reading.drop or reading.by_turning)
    ]
    closest = figure.closest if figure else None
    following = closest.next_deg if closest and not enough else None
    angles = {float(angle) for angle in USUAL_DEG[place.side]} | {reading.crank_deg for reading in mine}
    if following is not None and abs(following) <= FURTHEST:
        angles.add(float(round(following)))
    questions = questions_by_key(page)
    found = []
    for angle in sorted(angles):
        here = [reading for reading in mine if reading.crank_deg == angle]
        is_next = following is not None and round(following) == angle
        saved = [saved_reading(page, reading, questions, wrong) for reading in here]
        wanted = is_next or not (here or closest)
        field = _field(angle, letter, wrong, wanted=wanted)
        found.append(SweepRow(format_crank_angle(angle), saved, field, "is-next" if is_next else ""))
    return found


def _field(angle: float, letter: str, wrong: Mapping[str, Wrong], *, wanted: bool) -> Field:
    name, label = f"sweep-{angle:g}", f"Clearance at {format_crank_angle(angle)}"
    return Field(name, label, "gap", wants=int(wanted), wrong=wrong.get(name), mockup=letter)


def saved_reading(
    page: BuildPage, reading: SweepReading, questions: Mapping[str, str], wrong: Mapping[str, Wrong]
) -> Saved:
    """Return a reading in the log, as the form shows it."""
    record = reading.record
    tilt = f" · tilted {format_degrees(reading.tilt_deg)}" if reading.tilt_deg else ""
    tool = page.instruments[reading.instrument].name
    gap = format_gap(GapTyped(reading.clearance_mm, reading.half_width_mm), page.unit)
    return Saved(
        key=reading.key,
        text=format_bench(reading.clearance_mm, page.unit),
        both=f"{gap} · {tool}, mock-up {reading.mockup}{tilt}",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
