"""The cam station: card, measured lobes, degreeing, lift, effect of cam steps."""

from dataclasses import replace
from functools import partial
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_GET

from mockup.base.stations import Station
from mockup.engine.valves import Place
from mockup.formats.lobe_csv import write_lobe_csv
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.typed import parse_bench_length
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.record import standing
from web.builds import services
from web.drawings.lift_curves import lift_curves
from web.entry.entry_forms import EntryForm, declare, take_posted
from web.entry.grouped_fields import item_of_form
from web.page.answers import answer
from web.page.build_page import Asked, BuildPage, build_page_or_404, cylinder_asked, letter_or_refuse, newest_mockup
from web.page.cam_forms import CardForm, TableForm, initial_card
from web.page.read_fields import Field, Reader, Saved, Wrong, record_line
from web.shelf.services import put_cam_on
from web.shops.access import member_writes, person_of
from web.stations.cam.form import DegreeForm, StepsForm
from web.stations.cam.lines import arrived_rows, degree_rows, of_the_cam_before, side_rows

TYPED = ("side", "opening_deg", "closing_deg", "steps")
"""The form fields whose typing is stored with the result."""


@member_writes
def cam(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the cam; accept its card, tables, angles and lifts, and strike them out."""
    page = build_page_or_404(build_id)
    forms = _forms(page)
    wrong: dict[str, Any] = {}
    if "shelve" in request.POST:
        if page.report.job.camshaft:
            own = replace(page.report.job.camshaft, name=f"from {page.build}"[:60])
            put_cam_on(own, person_of(request), had=True)
        return redirect("cams")
    if request.method == "POST":
        name = next((name for name in forms if name in request.POST), None)
        if name is None:
            wrong = dict(take_posted(request, page, ENTRY_FORM))
        else:
            forms[name] = form = _posted(name, request, page)
            wrong = dict(form.errors)
            if form.is_valid():
                typed = " ".join(str(form.data.get(field, "")) for field in TYPED)
                services.write(page.build, form.item, person_of(request), typed=typed.strip())
                return redirect(request.get_full_path())
    parts = {**_parts(request, page, wrong), **{f"{name}_form": form for name, form in forms.items()}, "wrong": wrong}
    return answer(request, page, Station.CAM, request.get_full_path(), parts)


def _forms(page: BuildPage) -> dict[str, Any]:
    job = page.report.job
    degreed = standing(job.of_this_cam(DegreeReading))
    last = {"side": str(degreed[-1].side), "wheel_set": "yes" if degreed[-1].wheel_set else "no"} if degreed else {}
    steps = {"steps": ", ".join(f"{step:g}" for step in job.cam_steps_deg)}
    return {
        "card": CardForm(page.unit, initial=initial_card(job.cam_card)),
        "lobe": TableForm(page.unit, auto_id="lobe-%s"),
        "degree": DegreeForm(page.unit, initial=last, auto_id="degree-%s"),
        "moves": StepsForm(initial=steps, auto_id="moves-%s"),
    }


def _posted(name: str, request: HttpRequest, page: BuildPage) -> Any:
    if name == "card":
        return CardForm(page.unit, request.POST)
    if name == "lobe":
        return TableForm(page.unit, request.POST, request.FILES, auto_id="lobe-%s")
    return (
        DegreeForm(page.unit, request.POST, auto_id="degree-%s")
        if name == "degree"
        else StepsForm(request.POST, auto_id="moves-%s")
    )


def _readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    mockup = newest_mockup(asked, page)

    def read(place: Place, text: str) -> LiftReading:
        letter = letter_or_refuse(mockup, "a lift needs its springs and lash")
        lift = parse_bench_length(text, page.unit)
        return LiftReading(key="", mockup=letter, place=place, lift_mm=lift)

    lifts = {f"lift-{p.side}-{p.number}": partial(read, p) for p in page.valves_of(cylinder_asked(asked, page))}
    return {**lifts, "degree-pair": partial(_pair, asked, page)}


def _pair(asked: Asked, page: BuildPage, _: str) -> Any:
    """Return the two wheel angles of the form."""
    return item_of_form(DegreeForm(page.unit, asked.POST))


def _parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, cylinder, mockup = page.report, cylinder_asked(request, page), newest_mockup(request, page)
    letter = mockup.letter if mockup else ""
    return {
        "folder": "cam",
        "cylinder": cylinder,
        "pinned": {"cylinder": cylinder} | ({"mockup": mockup.letter} if mockup else {}),
        "mockup": mockup,
        "curves": lift_curves(report),
        "cam": report.cam,
        "has_cam": report.job.camshaft is not None,
        "sides": side_rows(report),
        "degrees": degree_rows(report, wrong),
        "before": of_the_cam_before(report),
        "lifts": [_lift_row(page, place, letter, wrong) for place in page.valves_of(cylinder)],
        "arrived": arrived_rows(report),
        "tables": report.job.lobe_tables,
        # About thirty fields: shown on demand, and where nothing is entered yet.
        "card_open": "card" in request.GET or "card" in request.POST or not report.cam.sides,
    }


def _lift_row(page: BuildPage, place: Place, letter: str, wrong: dict[str, Wrong]) -> dict[str, Any]:
    mine = [reading for reading in standing(page.report.job.of_this_cam(LiftReading)) if reading.place == place]
    name = f"lift-{place.side}-{place.number}"
    label = place.label(page.report.job.engine.row(place.side).count)
    return {
        "label": label,
        "side": place.side,
        "saved": [_saved(page, reading, wrong) for reading in mine],
        "field": Field(name, f"Lift of {label}", "bench", int(not mine), wrong.get(name), mockup=letter),
    }


def _saved(page: BuildPage, reading: LiftReading, wrong: dict[str, Wrong]) -> Saved:
    record = reading.record
    return Saved(
        key=reading.key,
        text=format_bench(reading.lift_mm, page.unit),
        both=f"{format_both(reading.lift_mm, page.unit)} · mock-up {reading.mockup}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def _form_parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    forms = {f"{name}_form": form for name, form in _forms(page).items()}
    return {**_parts(request, page, wrong), **forms, "wrong": wrong}


ENTRY_FORM = declare(
    EntryForm(station=Station.CAM, readers=_readers, parts=_form_parts, strikes=("lobe-table", "cam-card"))
)


@require_GET
def lobe_csv(request: HttpRequest, build_id: int, side: str, ending: str) -> HttpResponse:  # noqa: ARG001
    """Return a measured lobe as a CSV file, or as two plain columns."""
    kind, between = ("text/csv", ",") if ending == "csv" else ("text/plain", "\t")
    for table in build_page_or_404(build_id).report.job.lobe_tables:
        if table.side == side:
            headers = {"Content-Disposition": f'attachment; filename="{side}-lobe.{ending}"'}
            text = write_lobe_csv(table, between)
            return HttpResponse(text, content_type=f"{kind}; charset=utf-8", headers=headers)
    raise Http404(side)
