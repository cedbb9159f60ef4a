"""The pushrod station: trials of every valve, what lengths can be had, and the wipe pattern on the tip."""

from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from bench.builds import services
from bench.entry.sheets import Sheet, declare, take_posted
from bench.page.bench import Asked, Bench, bench_or_404, cylinder_asked, letter_or_refuse, newest_mockup
from bench.page.echo import checker_of
from bench.page.entering import Field, Reader, Wrong
from bench.page.show import answer
from bench.shelf.models import ShelfPushrod
from bench.shops.access import member_writes, person_of
from bench.stations.pushrods.form import ChoiceForm
from bench.stations.pushrods.lines import base_circle, pushrod_lines, saved_trial, saved_wipe
from mockup.checks.check import Kind
from mockup.engine.valves import Place
from mockup.quantity.typed_train import parse_pushrod, parse_wipe
from mockup.readings.pushrods import PushrodReading, WipeReading
from mockup.record import standing
from mockup.stations import Station
from mockup.words import mockup_line

NEEDS_MOCKUP = "a length needs the gasket and lifters it was tried with"


@member_writes
def pushrods(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the pushrods; take trials and patterns, and what they are chosen by."""
    bench = bench_or_404(build_id)
    form = _choice_form(bench)
    wrong: dict[str, Any] = {}
    if "choice" in request.POST:
        form = _choice_form(bench, request.POST)
        wrong = dict(form.errors)
        if form.is_valid():
            services.write(bench.build, form.item, person_of(request), typed=form.data.get("chosen_mm", ""))
            return redirect(request.get_full_path())
    elif request.method == "POST":
        wrong = dict(take_posted(request, bench, SHEET))
    parts = {**_parts(request, bench, wrong), "choice_form": form, "wrong": wrong}
    return answer(request, bench, Station.PUSHRODS, request.get_full_path(), parts)


def _choice_form(bench: Bench, posted: Any = None) -> ChoiceForm:
    choice = bench.report.job.pushrod_choice
    initial = {name: getattr(choice, name) for name in ChoiceForm.base_fields} if choice else {}
    return ChoiceForm(bench.unit, posted, initial=initial)


def _name(kind: str, place: Place) -> str:
    return f"{kind}-{place.side}-{place.number}"


def _readers(asked: Asked, bench: Bench) -> dict[str, Reader]:
    mockup = newest_mockup(asked, bench)

    def rod(place: Place, text: str) -> PushrodReading:
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP)
        typed = parse_pushrod(text, bench.unit, checker_of(asked.POST.dict(), bench.unit))
        return PushrodReading(
            key="", mockup=letter, place=place, closed_mm=typed.closed_mm, turns=typed.turns, pitch_mm=typed.pitch_mm
        )

    def wipe(place: Place, text: str) -> WipeReading:
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP)
        typed = parse_wipe(text, bench.unit)
        return WipeReading(
            key="",
            mockup=letter,
            place=place,
            start_mm=typed.start_mm,
            end_mm=typed.end_mm,
            tip_mm=typed.tip_mm,
            square=typed.square,
            half_lift_deg=typed.half_lift_deg,
        )

    places = bench.valves_of(cylinder_asked(asked, bench))
    return {_name("rod", p): partial(rod, p) for p in places} | {_name("wipe", p): partial(wipe, p) for p in places}


def _parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, cylinder = bench.report, cylinder_asked(request, bench)
    shelf = [row.length_mm for row in ShelfPushrod.objects.filter(off_since=None)]
    newest = newest_mockup(request, bench)
    mockup = report.job.mockup(newest.letter) if newest else None
    letter = newest.letter if newest else ""
    return {
        "folder": "pushrods",
        "cylinder": cylinder,
        "pinned": {"cylinder": cylinder} | ({"mockup": letter} if letter else {}),
        "mockup": mockup,
        "mockup_line": mockup_line(mockup, bench.unit) if mockup else "",
        "rows": [_row(bench, place, letter, wrong) for place in bench.valves_of(cylinder)],
        "closed": request.POST.get("closed", ""),
        "pitch": request.POST.get("pitch", ""),
        "guide": base_circle(report, cylinder),
        "lines": pushrod_lines(report, shelf),
        "checks": report.of_kind(Kind.PUSHROD),
        "choice": report.job.pushrod_choice,
    }


def _row(bench: Bench, place: Place, letter: str, wrong: dict[str, Wrong]) -> dict[str, Any]:
    job = bench.report.job
    rods = [reading for reading in standing(job.of(PushrodReading)) if reading.place == place]
    wipes = [reading for reading in standing(job.of(WipeReading)) if reading.place == place]
    label = place.label(job.engine.row(place.side).count)
    rod, wipe = _name("rod", place), _name("wipe", place)
    return {
        "label": label,
        "side": place.side,
        "rods": [saved_trial(bench, reading, wrong) for reading in rods],
        "rod": Field(rod, f"Trial of {label}", "pushrod", int(not rods), wrong.get(rod), mockup=letter),
        "wipes": [saved_wipe(bench, reading, wrong) for reading in wipes],
        "wipe": Field(wipe, f"Wipe pattern of {label}", "wipe", wants=0, wrong=wrong.get(wipe), mockup=letter),
    }


def _sheet_parts(request: HttpRequest, bench: Bench, wrong: dict[str, Any]) -> dict[str, Any]:
    return {**_parts(request, bench, wrong), "choice_form": _choice_form(bench), "wrong": wrong}


SHEET = declare(Sheet(station=Station.PUSHRODS, readers=_readers, parts=_sheet_parts))
