"""The cam station: card, measured lobes, degreeing, the lift that arrives, and where each step would put it."""

from dataclasses import replace
from functools import partial
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_GET

from bench.builds import services
from bench.drawings.lift_curves import lift_curves
from bench.entry.forms import item_of_form
from bench.entry.sheets import Sheet, declare, take_posted
from bench.page.bench import Asked, Bench, bench_or_404, cylinder_asked, letter_or_refuse, newest_mockup
from bench.page.cam_forms import CardForm, TableForm, initial_card
from bench.page.entering import Field, Reader, Saved, Wrong, record_line
from bench.page.show import answer
from bench.shelf.services import put_cam_on
from bench.shops.access import member_writes, person_of
from bench.stations.cam.form import DegreeForm, StepsForm
from bench.stations.cam.lines import arrived_lines, degree_lines, of_the_cam_before, side_lines
from mockup.engine.valves import Place
from mockup.jobfile.lobe_csv import write_lobe_csv
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.typed import parse_bench_length
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.record import standing
from mockup.stations import Station

TYPED = ("side", "opening_deg", "closing_deg", "steps")
"""Of the fields of a form, those that are kept beside what was made of them."""


@member_writes
def cam(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the cam; take its card, tables, angles and lifts, and strike them out."""
    bench = bench_or_404(build_id)
    forms = _forms(bench)
    wrong: dict[str, Any] = {}
    if "shelve" in request.POST:
        if bench.report.job.camshaft:
            own = replace(bench.report.job.camshaft, name=f"from {bench.build}"[:60])
            put_cam_on(own, person_of(request), had=True)
        return redirect("cams")
    if request.method == "POST":
        name = next((name for name in forms if name in request.POST), None)
        if name is None:
            wrong = dict(take_posted(request, bench, SHEET))
        else:
            forms[name] = form = _posted(name, request, bench)
            wrong = dict(form.errors)
            if form.is_valid():
                typed = " ".join(str(form.data.get(field, "")) for field in TYPED)
                services.write(bench.build, form.item, person_of(request), typed=typed.strip())
                return redirect(request.get_full_path())
    parts = {**_parts(request, bench, wrong), **{f"{name}_form": form for name, form in forms.items()}, "wrong": wrong}
    return answer(request, bench, Station.CAM, request.get_full_path(), parts)


def _forms(bench: Bench) -> dict[str, Any]:
    job = bench.report.job
    degreed = standing(job.of_this_cam(DegreeReading))
    last = {"side": str(degreed[-1].side), "wheel_set": "yes" if degreed[-1].wheel_set else "no"} if degreed else {}
    steps = {"steps": ", ".join(f"{step:g}" for step in job.cam_steps_deg)}
    return {
        "card": CardForm(bench.unit, initial=initial_card(job.cam_card)),
        "lobe": TableForm(bench.unit, auto_id="lobe-%s"),
        "degree": DegreeForm(bench.unit, initial=last, auto_id="degree-%s"),
        "moves": StepsForm(initial=steps, auto_id="moves-%s"),
    }


def _posted(name: str, request: HttpRequest, bench: Bench) -> Any:
    if name == "card":
        return CardForm(bench.unit, request.POST)
    if name == "lobe":
        return TableForm(bench.unit, request.POST, request.FILES, auto_id="lobe-%s")
    return (
        DegreeForm(bench.unit, request.POST, auto_id="degree-%s")
        if name == "degree"
        else StepsForm(request.POST, auto_id="moves-%s")
    )


def _readers(asked: Asked, bench: Bench) -> dict[str, Reader]:
    mockup = newest_mockup(asked, bench)

    def read(place: Place, text: str) -> LiftReading:
        letter = letter_or_refuse(mockup, "a lift needs its springs and lash")
        lift = parse_bench_length(text, bench.unit)
        return LiftReading(key="", mockup=letter, place=place, lift_mm=lift)

    lifts = {f"lift-{p.side}-{p.number}": partial(read, p) for p in bench.valves_of(cylinder_asked(asked, bench))}
    return {**lifts, "degree-pair": partial(_pair, asked, bench)}


def _pair(asked: Asked, bench: Bench, _: str) -> Any:
    """The two wheel angles that the form beside the line holds."""
    return item_of_form(DegreeForm(bench.unit, asked.POST))


def _parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report, cylinder, mockup = bench.report, cylinder_asked(request, bench), newest_mockup(request, bench)
    letter = mockup.letter if mockup else ""
    return {
        "folder": "cam",
        "cylinder": cylinder,
        "pinned": {"cylinder": cylinder} | ({"mockup": mockup.letter} if mockup else {}),
        "mockup": mockup,
        "curves": lift_curves(report),
        "cam": report.cam,
        "has_cam": report.job.camshaft is not None,
        "sides": side_lines(report),
        "degrees": degree_lines(report, wrong),
        "before": of_the_cam_before(report),
        "lifts": [_lift_row(bench, place, letter, wrong) for place in bench.valves_of(cylinder)],
        "arrived": arrived_lines(report),
        "tables": report.job.lobe_tables,
        # Some thirty fields: shown when they are wanted, and where there is nothing else yet.
        "card_open": "card" in request.GET or "card" in request.POST or not report.cam.sides,
    }


def _lift_row(bench: Bench, place: Place, letter: str, wrong: dict[str, Wrong]) -> dict[str, Any]:
    mine = [reading for reading in standing(bench.report.job.of_this_cam(LiftReading)) if reading.place == place]
    name = f"lift-{place.side}-{place.number}"
    label = place.label(bench.report.job.engine.row(place.side).count)
    return {
        "label": label,
        "side": place.side,
        "saved": [_saved(bench, reading, wrong) for reading in mine],
        "field": Field(name, f"Lift of {label}", "bench", int(not mine), wrong.get(name), mockup=letter),
    }


def _saved(bench: Bench, reading: LiftReading, wrong: dict[str, Wrong]) -> Saved:
    record = reading.record
    return Saved(
        key=reading.key,
        text=format_bench(reading.lift_mm, bench.unit),
        both=f"{format_both(reading.lift_mm, bench.unit)} · mock-up {reading.mockup}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def _sheet_parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    forms = {f"{name}_form": form for name, form in _forms(bench).items()}
    return {**_parts(request, bench, wrong), **forms, "wrong": wrong}


SHEET = declare(Sheet(station=Station.CAM, readers=_readers, parts=_sheet_parts, strikes=("lobe-table", "cam-card")))


@require_GET
def lobe_csv(request: HttpRequest, build_id: int, side: str, ending: str) -> HttpResponse:  # noqa: ARG001
    """A measured lobe as a CSV file, or as two plain columns."""
    kind, between = ("text/csv", ",") if ending == "csv" else ("text/plain", "\t")
    for table in bench_or_404(build_id).report.job.lobe_tables:
        if table.side == side:
            headers = {"Content-Disposition": f'attachment; filename="{side}-lobe.{ending}"'}
            text = write_lobe_csv(table, between)
            return HttpResponse(text, content_type=f"{kind}; charset=utf-8", headers=headers)
    raise Http404(side)
