"""The pushrod station: trials of valves, available lengths, the wipe pattern."""

from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from mockup.base.stations import Station
from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.engine.valves import Place
from mockup.plans.pushrods_in_hand import parse_lengths, pushrods_in_hand
from mockup.quantity.shown import format_dimension
from mockup.quantity.typed import LengthError
from mockup.quantity.typed_train import parse_pushrod, parse_wipe
from mockup.readings.pushrods import PushrodReading, WipeReading
from mockup.readings.record import standing
from mockup.words.report_text import mockup_line
from web.builds import services
from web.entry.entry_forms import EntryForm, declare, take_posted
from web.page.answers import answer
from web.page.build_page import Asked, BuildPage, build_page_or_404, cylinder_asked, letter_or_refuse, newest_mockup
from web.page.echo import checker_of
from web.page.read_fields import LONGEST_TYPED, Field, Reader, Wrong
from web.shelf.models import ShelfPushrod
from web.shops.access import member_writes, person_of
from web.stations.pushrods.form import ChoiceForm
from web.stations.pushrods.lines import base_circle, pushrod_rows, saved_trial, saved_wipe

NEEDS_MOCKUP = "a length needs the gasket and lifters it was tried with"


@member_writes
def pushrods(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the pushrods; accept trials and patterns, and the window for choosing."""
    page = build_page_or_404(build_id)
    form = _choice_form(page)
    wrong: dict[str, Any] = {}
    if "choice" in request.POST:
        form = _choice_form(page, request.POST)
        wrong = dict(form.errors)
        if form.is_valid():
            services.write(page.build, form.item, person_of(request), typed=form.data.get("chosen_mm", ""))
            return redirect(request.get_full_path())
    elif request.method == "POST":
        wrong = dict(take_posted(request, page, ENTRY_FORM))
    parts = {**_parts(request, page, wrong), "choice_form": form, "wrong": wrong}
    return answer(request, page, Station.PUSHRODS, request.get_full_path(), parts)


def _choice_form(page: BuildPage, posted: Any = None) -> ChoiceForm:
    choice = page.report.job.pushrod_choice
    initial = {name: getattr(choice, name) for name in ChoiceForm.base_fields} if choice else {}
    return ChoiceForm(page.unit, posted, initial=initial)


def _name(kind: str, place: Place) -> str:
    return f"{kind}-{place.side}-{place.number}"


def _readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    mockup = newest_mockup(asked, page)

    def rod(place: Place, text: str) -> PushrodReading:
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP)
        typed = parse_pushrod(text, page.unit, checker_of(asked.POST.dict(), page.unit))
        return PushrodReading(
            key="", mockup=letter, place=place, closed_mm=typed.closed_mm, turns=typed.turns, pitch_mm=typed.pitch_mm
        )

    def wipe(place: Place, text: str) -> WipeReading:
        letter = letter_or_refuse(mockup, NEEDS_MOCKUP)
        typed = parse_wipe(text, page.unit)
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

    places = page.valves_of(cylinder_asked(asked, page))
    return {_name("rod", p): partial(rod, p) for p in places} | {_name("wipe", p): partial(wipe, p) for p in places}


def _parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, cylinder = page.report, cylinder_asked(request, page)
    shelf = [row.length_mm for row in ShelfPushrod.objects.filter(off_since=None)]
    newest = newest_mockup(request, page)
    mockup = report.job.mockup(newest.letter) if newest else None
    letter = newest.letter if newest else ""
    return {
        "folder": "pushrods",
        "cylinder": cylinder,
        "pinned": {"cylinder": cylinder} | ({"mockup": letter} if letter else {}),
        "mockup": mockup,
        "mockup_line": mockup_line(mockup, page.unit) if mockup else "",
        "rows": [_row(page, place, letter, wrong) for place in page.valves_of(cylinder)],
        "closed": request.POST.get("closed", ""),
        "pitch": request.POST.get("pitch", ""),
        "guide": base_circle(report, cylinder),
        "lines": pushrod_rows(report, shelf),
        "checks": report.of_kind(PUSHROD_CHECK),
        "choice": report.job.pushrod_choice,
        **_in_hand(request.GET.get("lengths", "")[:LONGEST_TYPED], page),
    }


def _in_hand(typed: str, page: BuildPage) -> dict[str, Any]:
    """Return what the typed lengths give each valve, or why they are no lengths."""
    try:
        lengths = parse_lengths(typed, page.unit)
    except LengthError as error:
        return {"lengths": typed, "wrong_lengths": str(error)}
    found = list(pushrods_in_hand(page.report, lengths)) if lengths else []
    row = page.report.job.engine.row
    return {
        "lengths": typed,
        "in_hand": [(place.label(row(place.side).count), place.side, gives) for place, gives in found],
        "in_hand_lengths": [format_dimension(one, page.unit) for one in lengths],
    }


def _row(page: BuildPage, place: Place, letter: str, wrong: dict[str, Wrong]) -> dict[str, Any]:
    job = page.report.job
    rods = [reading for reading in standing(job.of(PushrodReading)) if reading.place == place]
    wipes = [reading for reading in standing(job.of(WipeReading)) if reading.place == place]
    label = place.label(job.engine.row(place.side).count)
    rod, wipe = _name("rod", place), _name("wipe", place)
    return {
        "label": label,
        "side": place.side,
        "rods": [saved_trial(page, reading, wrong) for reading in rods],
        "rod": Field(rod, f"Trial of {label}", "pushrod", int(not rods), wrong.get(rod), mockup=letter),
        "wipes": [saved_wipe(page, reading, wrong) for reading in wipes],
        "wipe": Field(wipe, f"Wipe pattern of {label}", "wipe", wants=0, wrong=wrong.get(wipe), mockup=letter),
    }


def _form_parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Any]) -> dict[str, Any]:
    return {**_parts(request, page, wrong), "choice_form": _choice_form(page), "wrong": wrong}


ENTRY_FORM = declare(EntryForm(station=Station.PUSHRODS, readers=_readers, parts=_form_parts))
