"""The indicator station: one valve at a time, its closest approach, the methods side by side, the section."""

from typing import Any

from django.http import HttpRequest, HttpResponse

from bench.drawings.approach import approach_chart
from bench.drawings.chamber import chamber_section
from bench.drawings.engine_map import engine_map
from bench.page.bench import Bench, bench_or_404, cylinder_asked, mockup_in_hand
from bench.page.entering import Field, Wrong
from bench.page.show import answer
from bench.page.taking import take_readings
from bench.shops.access import member_writes
from bench.stations.sweep.drops import drop_lines
from bench.stations.sweep.every_valve import every_valve
from bench.stations.sweep.sheet import WHEEL, in_hand, instruments, readers, rows, saved_reading
from mockup.checks.check import Check
from mockup.checks.sweeps import is_enough
from mockup.engine.valves import Place, Side
from mockup.readings.sweep import SweepFigure, SweepReading
from mockup.record import standing
from mockup.report import Report
from mockup.stations import Station
from mockup.words import mockup_line


@member_writes
def sweep(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the sheet of one valve; take readings and strike them out."""
    bench = bench_or_404(build_id)
    place = _place(request, bench)
    under = mockup_in_hand(request, bench, "sweep")
    wrong: dict[str, Wrong] = {}
    if request.method == "POST":
        wrong = take_readings(request, bench, Station.SWEEP, readers(bench, place, in_hand(request), under))
    return answer(request, bench, Station.SWEEP, request.get_full_path(), _parts(request, bench, place, wrong))


def _key(place: Place) -> str:
    return f"{place.side}-{place.number}"


def _place(request: HttpRequest, bench: Bench) -> Place:
    places = bench.valves_of(cylinder_asked(request, bench))
    return next((place for place in places if _key(place) == request.GET.get("valve")), places[0])


def _figure(report: Report, place: Place) -> SweepFigure | None:
    """The newest mock-up's sweep of one valve."""
    mine = [figure for figure in report.sweeps if figure.place == place and not figure.by_turning]
    order = [mockup.key for mockup in report.job.mockups]
    # A drop that is older than the engine as it was swept stands by itself: the sweep speaks first.
    return max(mine, key=lambda figure: (bool(figure.angles_deg), order.index(figure.mockup)), default=None)


def _advice(figure: SweepFigure | None, check: Check | None) -> str:
    """Which words go with the closest point: how it was reached, and whether to read on."""
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


def _extra(name: str, label: str, kind: str, turn: int, wrong: dict[str, Wrong]) -> Field:
    """A field that Enter passes by."""
    return Field(name, label, kind, turn, wanted=False, wrong=wrong.get(name))


def _parts(request: HttpRequest, bench: Bench, place: Place, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report = bench.report
    figure = _figure(report, place)
    under = mockup_in_hand(request, bench, "sweep")
    mockup = report.job.mockup(under.letter) if under else None
    every = every_valve(report)
    alone = [r for r in standing(report.job.of(SweepReading)) if r.place == place]
    drops, turned = [r for r in alone if r.drop], [r for r in alone if r.by_turning]
    check = next(
        (c for c in dict(every.rows)[place.cylinder] if (c.side, c.number) == (place.side, place.number)), None
    )
    advice = _advice(figure, check)
    counts = {side: report.job.engine.row(side).count for side in Side}
    return {
        "folder": "sweep",
        "place": place,
        "label": place.label(counts[place.side]),
        "cylinder": place.cylinder,
        "places": [
            (_key(one), one.label(counts[one.side]), one == place, one.side) for one in bench.valves_of(place.cylinder)
        ],
        "valve": _key(place),
        "mockup": mockup,
        "mockups": bench.mockups,
        "mockup_line": mockup_line(mockup, bench.unit) if mockup else "",
        "hand": in_hand(request),
        "instruments": instruments(bench),
        "wheel": WHEEL,
        "rows": rows(bench, place, figure, wrong, enough=advice == "enough"),
        "figure": figure,
        "other": _extra("sweep-other", "Angle and reading", "sweep", len(report.job.of(SweepReading)), wrong),
        "drop": _extra("sweep-drop", "The drop", "bench", len(drops), wrong),
        "drops": [saved_reading(bench, reading, {}, wrong) for reading in drops],
        "known_drops": drop_lines(report),
        "turning": _extra("sweep-turning", "Smallest found by turning", "bench", len(turned), wrong),
        "turned": [saved_reading(bench, reading, {}, wrong) for reading in turned],
        "advice": advice,
        "checks": [check for check in dict(every.rows)[place.cylinder] if check.governing],
        "every": every,
        "chart": approach_chart(report, place.cylinder),
        "section": chamber_section(report, place.cylinder),
        "map": engine_map(report, place.cylinder),
        "wrong": wrong,
    }
