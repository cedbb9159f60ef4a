"""The clay station: one cylinder at a time, every valve's slices and the gap at its edge."""

from functools import partial
from typing import Any

from django.http import HttpRequest

from mockup.base.stations import Station
from mockup.checks.check import Check
from mockup.checks.valve_limits import RADIAL_LIMIT
from mockup.engine.valves import Place, Relief
from mockup.plans.where_to_look import too_near_for_clay
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.typed_train import parse_clay
from mockup.readings import clay as core
from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.instruments import CAMERA
from mockup.readings.record import standing
from mockup.report import Report
from mockup.words.report_text import clay_advice, mockup_line
from web.drawings.clay_slice import clay_slices
from web.drawings.engine_map import engine_map
from web.entry.entry_forms import EntryForm, declare, view_of
from web.page.banks import other_bank
from web.page.build_page import Asked, BuildPage, cylinder_asked, letter_or_refuse, mockup_in_hand
from web.page.read_fields import Field, Reader, Saved, Wrong, questions_by_key, record_line

SLICES = {core.Gap.FACE: 3, core.Gap.RADIAL: 1}
"""How many readings are asked for: several slices of the face, one gap at the edge."""
NEEDS_MOCKUP = "a reading needs its conditions"
GAP_WORDS = {core.Gap.FACE: "face", core.Gap.RADIAL: "edge"}


def _stem(place: Place, gap: core.Gap) -> str:
    return f"clay-{place.side}-{place.number}-{gap}"


def _name(place: Place, gap: core.Gap, slot: int) -> str:
    return f"{_stem(place, gap)}-{slot}"


def _readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    """Return how each posted field is read: for each valve as many slices as there are."""
    cylinder, mockup = cylinder_asked(asked, page), mockup_in_hand(asked, page, "clay")
    laid_mm = mockup.core.laid_mm if mockup else 0.0

    def read(place: Place, gap: core.Gap, text: str) -> core.ClayReading:
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP)
        typed = parse_clay(text, page.unit, laid_mm)
        return core.ClayReading(
            key="",
            mockup=letter,
            place=place,
            gap=gap,
            thickness_mm=typed.thickness_mm,
            touched=typed.touched,
            spot=typed.spot,
        )

    def head(spot: core.HeadSpot, text: str) -> core.HeadReading:
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP)
        typed = parse_clay(text, page.unit, laid_mm)
        return core.HeadReading(
            key="",
            mockup=letter,
            cylinder=cylinder,
            spot=spot,
            thickness_mm=typed.thickness_mm,
            touched=typed.touched,
        )

    places = {_stem(place, gap): partial(read, place, gap) for place in page.valves_of(cylinder) for gap in core.Gap}
    found: dict[str, Reader] = {}
    for name in asked.POST:
        stem, _, slot = name.rpartition("-")
        if stem in places and slot.isdecimal():
            found[name] = places[stem]
    return found | {f"head-{spot.name.lower()}": partial(head, spot) for spot in core.HeadSpot}


def _parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, cylinder = page.report, cylinder_asked(request, page)
    mockup = mockup_in_hand(request, page, "clay")
    letter = mockup.letter if mockup else ""
    here = [r for r in standing(report.job.of(ClayReading)) if r.place.cylinder == cylinder and r.mockup == letter]
    following = _following(report, cylinder)
    return {
        "folder": "clay",
        "cylinder": cylinder,
        "pinned": {"cylinder": cylinder} | ({"mockup": letter} if letter else {}),
        "mockup": mockup,
        "mockup_line": mockup_line(report.job.mockup(letter), page.unit) if mockup else "",
        "mockups": page.mockups,
        "other_bank": other_bank(page, cylinder, letter),
        "rows": [
            _row(page, place, gap, letter, here, wrong)
            for place in page.valves_of(cylinder)
            for gap in core.Gap
            if _offered(page, place, gap, here)
        ],
        "heads": [_head_row(page, spot, cylinder, letter, wrong) for spot in core.HeadSpot],
        "checks": [check for check in report.checks if check.cylinder == cylinder and _worth_showing(check)],
        "following": following,
        "too_near": too_near_for_clay(report, cylinder),
        "map": engine_map(report, cylinder),
        "slices": clay_slices(report, cylinder, letter),
        "advice": clay_advice(report.job.engine, page.unit),
        "pictured": _pictured(page, here),
        "wrong": wrong,
    }


def _pictured(page: BuildPage, here: list[core.ClayReading]) -> list[tuple[str, list[int]]]:
    """Return the pictures behind this cylinder's readings, valve by valve."""
    places = {r.key: r.place for r in here if r.instrument == CAMERA}
    if not places:
        return []
    found: dict[str, list[int]] = {}
    for picture, entries in page.pictures:
        for row in page.log:
            if row.key in places and row.pk in entries and picture.removed_at is None:
                label = places[row.key].label(page.report.job.engine.row(places[row.key].side).count)
                found.setdefault(label, []).append(picture.pk)
    return list(found.items())


def _offered(page: BuildPage, place: Place, gap: core.Gap, here: list[core.ClayReading]) -> bool:
    """Return whether to offer a gap: a flat crown has no relief edge unless one was read."""
    flat = page.report.job.engine.row(place.side).relief is Relief.FLAT
    return not (gap is core.Gap.RADIAL and flat) or any(r.place == place and r.gap is gap for r in here)


def _worth_showing(check: Check) -> bool:
    return Station.CLAY in check.kind.shows_at and check.governing is not None


def _following(report: Report, cylinder: int) -> int | None:
    """Return the next other cylinder that the report asks to be clayed, or None."""
    asked = [step.cylinder for step in report.steps if step.station is Station.CLAY and step.cylinder != cylinder]
    return asked[0] if asked else None


def _row(
    page: BuildPage, place: Place, gap: core.Gap, letter: str, here: list[core.ClayReading], wrong: dict[str, Wrong]
) -> dict[str, Any]:
    readings = [reading for reading in here if reading.place == place and reading.gap is gap]
    label = place.label(page.report.job.engine.row(place.side).count)
    wants = max(SLICES[gap] - len(readings), 0)
    name = _name(place, gap, 0)
    questions = questions_by_key(page)
    return {
        "label": label,
        "side": place.side,
        "gap": GAP_WORDS[gap],
        "no_minimum": gap is core.Gap.RADIAL and not page.report.job.limits.minimum(RADIAL_LIMIT).is_set,
        "saved": [_saved(page, reading, questions, wrong) for reading in readings],
        "wants": f"× {SLICES[gap]}" if SLICES[gap] > 1 else "",
        "field": Field(
            name=name,
            label=f"{label}, {GAP_WORDS[gap]}, thickness",
            kind="clay",
            wants=wants,
            wrong=next((wrong[one] for one in wrong if one.startswith(_stem(place, gap))), None),
            mockup=letter,
            more=tuple(_name(place, gap, slot) for slot in range(1, wants)),
        ),
    }


def _head_row(
    page: BuildPage, spot: core.HeadSpot, cylinder: int, letter: str, wrong: dict[str, Wrong]
) -> dict[str, Any]:
    """Return one place between crown and head; it is offered, but Enter skips it."""
    mine = [
        r
        for r in standing(page.report.job.of(HeadReading))
        if (r.spot, r.cylinder, r.mockup) == (spot, cylinder, letter)
    ]
    name = f"head-{spot.name.lower()}"
    field = Field(name, f"Clay at the {spot}", "clay", wants=0, wrong=wrong.get(name), mockup=letter)
    return {"spot": spot, "saved": [_saved(page, one, {}, wrong) for one in mine], "field": field}


def _saved(
    page: BuildPage, reading: core.ClayReading | core.HeadReading, questions: dict[str, str], wrong: dict[str, Wrong]
) -> Saved:
    record = reading.record
    spot = reading.spot if isinstance(reading, core.ClayReading) else ""
    over = "" if reading.touched else "over "
    return Saved(
        key=reading.key,
        text=f"{over}{format_bench(reading.thickness_mm, page.unit)} {spot}".strip(),
        both=format_both(reading.thickness_mm, page.unit),
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


clay = view_of(declare(EntryForm(station=Station.CLAY, readers=_readers, parts=_parts)))
