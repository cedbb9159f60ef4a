"""The volumes station: final gasket, chambers and pistons, and the ratio they give."""

from collections.abc import Sequence
from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from bench.builds import services
from bench.builds.models import FinalGasket, VolumeReading
from bench.drawings.volume_column import volume_column
from bench.page.bench import Bench, answer, bench_or_404
from bench.page.entering import Field, Reader, Saved, Wrong, record_line, take
from bench.shops.access import member_writes, person_of
from bench.stations.volumes.form import GasketForm
from mockup.checks.check import Kind
from mockup.quantity.shown import format_piston_volume, format_volume
from mockup.quantity.typed import LengthError, parse_piston_volume, parse_volume
from mockup.readings import volumes as core
from mockup.readings.record import standing
from mockup.report import Station
from mockup.words import figure_text

KNOWN = [(core.Known.MEASURED, "measured with a burette"), (core.Known.STATED, "stated, not measured")]
PARSERS = {core.Part.CHAMBER: parse_volume, core.Part.PISTON: parse_piston_volume}


@member_writes
def volumes(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show gasket and volumes; take them and strike them out."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Wrong] = {}
    gasket = GasketForm(bench.unit, request.POST if "gasket" in request.POST else None)
    if request.method == "POST" and "gasket" in request.POST:
        if gasket.is_valid():
            _choose(request, bench, gasket)
            gasket = GasketForm(bench.unit)
    elif request.method == "POST":
        wrong = take(request, bench, _readers(request, bench), {"volume": VolumeReading})
    parts = _parts(request, bench, wrong) | {"gasket_form": gasket, "wrong": wrong or gasket.errors}
    return answer(request, bench, Station.VOLUMES, reverse("volumes", args=[build_id]), parts)


def _choose(request: HttpRequest, bench: Bench, form: GasketForm) -> None:
    typed = f"{form.data['compressed_mm']}, bore {form.data['bore_mm']}"[:80]
    services.write(FinalGasket(build=bench.build, typed=typed, **form.cleaned_data), person_of(request))
    bench.refresh()


def _places(bench: Bench) -> list[int | None]:
    return [None, *range(1, bench.build.cylinders + 1)] if bench.build.cylinders > 1 else [None]


def _name(part: core.Part, cylinder: int | None) -> str:
    return f"{part}-{cylinder or 'all'}"


def _readers(request: HttpRequest, bench: Bench) -> dict[str, Reader]:
    known = request.POST.get("known", core.Known.MEASURED)

    def read(part: core.Part, cylinder: int | None, text: str) -> VolumeReading:
        if known not in list(core.Known):
            raise LengthError("Say whether it is measured or stated.")
        cc = PARSERS[part](text)
        core.VolumeReading(key="", part=part, cc=cc)  # refuses what no engine holds
        return VolumeReading(part=part, cylinder=cylinder, cc=cc, known=known)

    return {_name(part, place): partial(read, part, place) for part in core.Part for place in _places(bench)}


def _parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report = bench.report
    ratios = {check.cylinder: check for check in report.of_kind(Kind.RATIO)}
    found = standing(report.job.volumes)
    rows = [
        {
            "cylinder": place or ("all" if len(_places(bench)) > 1 else 1),
            "cells": [_cell(part, place, found, wrong) for part in core.Part],
            "ratio": figure_text(ratios[place], bench.unit) if place else "",
        }
        for place in _places(bench)
    ]
    return {
        "folder": "volumes",
        "rows": rows,
        "known_choices": KNOWN,
        "known": request.POST.get("known", core.Known.MEASURED),
        "final": report.job.final_gasket,
        "ratios": [check for check in ratios.values() if check.figure],
        "column": volume_column(report),
    }


def _cell(
    part: core.Part, place: int | None, found: Sequence[core.VolumeReading], wrong: dict[str, Wrong]
) -> dict[str, Any]:
    # The newest governs; older ones stay in the book but not on the sheet.
    here = [reading for reading in found if reading.part is part and reading.cylinder == place][-1:]
    name = _name(part, place)
    label = f"{part.capitalize()} volume of {'every cylinder' if place is None else f'cylinder {place}'}"
    turn = int(here[0].key.rpartition("-")[2]) if here else 0
    wanted = place is None and not here
    return {
        "saved": [_saved(reading, wrong) for reading in here],
        "field": Field(name, label, str(part), turn, wanted, wrong.get(name)),
    }


def _saved(reading: core.VolumeReading, wrong: dict[str, Wrong]) -> Saved:
    piston = reading.part is core.Part.PISTON
    text = format_piston_volume(reading.cc) if piston else f"{format_volume(reading.cc)} cc"
    record = reading.record
    return Saved(
        key=reading.key,
        text=text,
        both=str(reading.known),
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
