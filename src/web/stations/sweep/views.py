"""The indicator station: one valve, its closest approach, the methods, the section."""

from typing import Any

from django.http import HttpRequest

from mockup.base.stations import Station
from mockup.checks.check import Check
from mockup.checks.sweeps import is_enough
from mockup.engine.valves import Place, Side
from mockup.fit.swept_valve import SweepFigure
from mockup.plans.where_to_look import closest_by_the_cam_deg
from mockup.quantity.typed_angle import format_crank_angle
from mockup.readings.record import standing
from mockup.readings.sweep import SweepReading
from mockup.report import Report
from mockup.words.report_text import TURNED_WORDS, mockup_line
from web.drawings.approach import approach_chart
from web.drawings.chamber import chamber_section
from web.drawings.engine_map import engine_map
from web.entry.entry_forms import EntryForm, declare, view_of
from web.page.banks import other_bank
from web.page.build_page import BuildPage, mockup_in_hand
from web.page.read_fields import Field, Wrong
from web.stations.sweep.drops import drop_rows
from web.stations.sweep.every_valve import every_valve
from web.stations.sweep.sheet import (
    WHEEL,
    in_hand,
    instruments,
    key_of,
    place_asked,
    readers,
    rows,
    saved_reading,
)


def _figure(report: Report, place: Place) -> SweepFigure | None:
    """Return the newest mock-up's sweep of one valve, or None."""
    mine = [figure for figure in report.sweeps if figure.place == place and not figure.by_turning]
    order = [mockup.key for mockup in report.job.mockups]
    # A drop older than the swept engine is a figure of its own: prefer the sweep.
    return max(mine, key=lambda figure: (bool(figure.angles_deg), order.index(figure.mockup)), default=None)


def _advice(figure: SweepFigure | None, check: Check | None) -> str:
    """Return which text goes with the closest point: how it was found, and whether to read on."""
    closest = figure.closest if figure else None
    if figure is None or closest is None:
        return ""
    if closest.doubtful:
        return "doubtful"
    if not figure.angles_deg:
        return "drop"
    if not closest.has_curve:
        return "few"
    if is_enough(closest, check):
        return "enough"
    return "next" if closest.bracketed else "past"


def _extra(name: str, label: str, kind: str, letter: str, wrong: dict[str, Wrong]) -> Field:
    """Return a field that Enter skips."""
    return Field(name, label, kind, wants=0, wrong=wrong.get(name), mockup=letter)


def _alone(page: BuildPage, place: Place, letter: str, wrong: dict[str, Wrong]) -> dict[str, Any]:
    """Return the fields without a row: another angle, the drop, the smallest by turning."""
    here = [reading for reading in standing(page.report.job.of(SweepReading)) if reading.place == place]
    return {
        "other": _extra("sweep-other", "Angle and reading", "sweep", letter, wrong),
        "drop": _extra("sweep-drop", "The drop", "gap", letter, wrong),
        "drops": [saved_reading(page, reading, {}, wrong) for reading in here if reading.drop],
        "turning": _extra("sweep-turning", "Smallest found by turning", "gap", letter, wrong),
        "turned": [saved_reading(page, reading, {}, wrong) for reading in here if reading.by_turning],
    }


def _look_at(report: Report, place: Place, figure: SweepFigure | None) -> str:
    """Return where to begin by the cam, before the valve is read; empty without a cam."""
    at_deg = None if figure and figure.angles_deg else closest_by_the_cam_deg(report, place.side)
    return "" if at_deg is None else format_crank_angle(round(at_deg))


def _parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, place = page.report, place_asked(request, page)
    figure = _figure(report, place)
    under = mockup_in_hand(request, page, "sweep")
    letter = under.letter if under else ""
    mockup = report.job.mockup(letter) if letter else None
    every = every_valve(report)
    check = next(
        (c for c in dict(every.rows)[place.cylinder] if (c.side, c.number) == (place.side, place.number)), None
    )
    advice = _advice(figure, check)
    counts = {side: report.job.engine.row(side).count for side in Side}
    return {
        "folder": "sweep",
        "place": place,
        "pinned": {"cylinder": place.cylinder, "valve": key_of(place)} | ({"mockup": letter} if letter else {}),
        "label": place.label(counts[place.side]),
        "cylinder": place.cylinder,
        "places": [
            (key_of(one), one.label(counts[one.side]), one == place, one.side) for one in page.valves_of(place.cylinder)
        ],
        "valve": key_of(place),
        "mockup": mockup,
        "mockups": page.mockups,
        "other_bank": other_bank(page, place.cylinder, letter),
        "mockup_line": mockup_line(mockup, page.unit) if mockup else "",
        "hand": in_hand(request),
        "instruments": instruments(page),
        "wheel": WHEEL,
        "turned_how": TURNED_WORDS,
        "rows": rows(page, place, letter, figure, wrong, enough=advice == "enough"),
        "figure": figure,
        **_alone(page, place, letter, wrong),
        "known_drops": drop_rows(report),
        "advice": advice,
        "look_at": _look_at(report, place, figure),
        "checks": [check for check in dict(every.rows)[place.cylinder] if check.governing],
        "every": every,
        "chart": approach_chart(report, place.cylinder),
        "section": chamber_section(report, place.cylinder),
        "map": engine_map(report, place.cylinder),
        "wrong": wrong,
    }


sweep = view_of(declare(EntryForm(station=Station.SWEEP, readers=readers, parts=_parts)))
