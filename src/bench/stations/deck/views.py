"""The deck station: one reading a cylinder, more where somebody reads again."""

from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from bench.builds.models import DeckReading
from bench.drawings.deck_plan import deck_plan
from bench.page.bench import Bench, answer, bench_or_404
from bench.page.entering import Field, Reader, Saved, Wrong, questions_by_key, record_line, take
from bench.shops.access import member_writes
from mockup.checks.check import Kind
from mockup.quantity.shown import format_both, format_deck, format_deck_signed
from mockup.quantity.typed import LengthError, parse_deck
from mockup.readings import deck as core
from mockup.readings.instruments import BRIDGE, DEFAULT_INSTRUMENTS, DEPTH_ROD, FEELERS
from mockup.report import Station

INSTRUMENTS = [(key, DEFAULT_INSTRUMENTS[key].name) for key in (BRIDGE, DEPTH_ROD, FEELERS)]


@member_writes
def deck(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the deck sheet; take readings and strike them out."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Wrong] = {}
    if request.method == "POST":
        wrong = take(request, bench, _readers(request, bench), {"deck": DeckReading})
    address = reverse("deck", args=[build_id])
    return answer(request, bench, Station.DECK, address, _parts(request, bench, wrong))


def _readers(request: HttpRequest, bench: Bench) -> dict[str, Reader]:
    instrument = request.POST.get("instrument", BRIDGE)

    def read(cylinder: int, text: str) -> DeckReading:
        if instrument not in dict(INSTRUMENTS):
            raise LengthError("Say what it was read with.")
        mm = parse_deck(text, bench.unit, bench.deck_sign)
        core.DeckReading(key="", cylinder=cylinder, clearance_mm=mm)  # refuses what no deck can be
        return DeckReading(cylinder=cylinder, clearance_mm=mm, instrument=instrument)

    return {f"deck-{cylinder}": partial(read, cylinder) for cylinder in range(1, bench.build.cylinders + 1)}


def _parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, unit = bench.report, bench.unit
    questions = questions_by_key(bench)
    rows = []
    for cylinder in report.job.engine.cylinder_numbers:
        figure = report.deck.get(cylinder)
        readings = figure.readings if figure else ()
        name = f"deck-{cylinder}"
        rows.append(
            {
                "cylinder": cylinder,
                "saved": [_saved(bench, reading, questions, wrong) for reading in readings],
                "mean": format_deck(figure.clearance.value, unit) if figure and len(readings) > 1 else "",
                "field": Field(
                    name, f"Deck of cylinder {cylinder}", "deck", len(readings), not readings, wrong.get(name)
                ),
            }
        )
    quench = report.of_kind(Kind.QUENCH)
    return {
        "folder": "deck",
        "rows": rows,
        "instruments": INSTRUMENTS,
        "instrument": request.POST.get("instrument", BRIDGE),
        "plan": deck_plan(report),
        "quench": quench,
        "cautions": sorted({caution for check in quench if check.governing for caution in check.governing.cautions}),
        "wrong": wrong,
    }


def _saved(bench: Bench, reading: core.DeckReading, questions: dict[str, str], wrong: dict[str, Wrong]) -> Saved:
    mm, unit, record = reading.clearance_mm, bench.unit, reading.record
    signed = format_deck_signed(mm, unit, bench.deck_sign)
    return Saved(
        key=reading.key,
        text=format_deck(mm, unit),
        both=f"{signed} in this build’s signs · {format_both(abs(mm), unit)}",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
