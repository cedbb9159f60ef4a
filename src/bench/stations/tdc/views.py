"""The TDC station: pairs of wheel readings, what they say of the wheel, and which TDC is which."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from bench.builds import services
from bench.drawings.degree_wheel import degree_wheel
from bench.entry.forms import item_of_form
from bench.entry.sheets import Sheet, declare, take_posted
from bench.page.bench import Asked, Bench, bench_or_404
from bench.page.entering import Reader, Saved, Wrong, instrument_choices, record_line
from bench.page.show import answer
from bench.shops.access import member_writes, person_of
from bench.stations.tdc.form import TdcForm
from mockup.instruments import INDICATOR
from mockup.quantity.shown import format_both, format_degrees
from mockup.readings import tdc as core
from mockup.stations import Station


@member_writes
def tdc(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the wheel; take pairs of readings and strike them out."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Wrong] = {}
    typed = request.method == "POST" and not {"strike", "undo"} & set(request.POST)
    form = _form(bench, request.POST if typed else None)
    if typed and form.is_valid():
        _write(request, bench, form)
        form = _form(bench, kept={name: form.cleaned_data[name] for name in ("method", "instrument")})
    elif request.method == "POST" and not typed:
        wrong = take_posted(request, bench, SHEET)
    parts = _parts(bench, wrong) | {"form": form, "wrong": wrong or form.errors}
    return answer(request, bench, Station.TDC, reverse("tdc", args=[build_id]), parts)


def _form(bench: Bench, posted: Any = None, kept: dict[str, Any] | None = None) -> TdcForm:
    return TdcForm(bench.unit, instrument_choices(bench, INDICATOR), posted, initial=kept)


def _write(request: HttpRequest, bench: Bench, form: TdcForm) -> None:
    typed = f"{form.data['before_deg']} before, {form.data['after_deg']} after"
    services.write(bench.build, form.item, person_of(request), typed=typed)
    bench.refresh()


def _parts(bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report = bench.report
    figure = report.tdc.figure
    order = report.job.engine.firing_order
    return {
        "folder": "tdc",
        "saved": [_saved(bench, reading, wrong) for reading in (figure.readings if figure else ())],
        "figure": figure,
        "error": format_degrees(abs(figure.error_deg.value)) if figure else "",
        "error_u": format_degrees(figure.error_deg.expanded) if figure else "",
        "set_to": format_degrees(figure.set_to_deg) if figure else "",
        "dwell": format_degrees(report.tdc.dwell_deg),
        "first": order[0] if order else None,
        "companion": report.tdc.companion,
        "wheel": degree_wheel(figure) if figure else None,
    }


def _saved(bench: Bench, reading: core.TdcReading, wrong: dict[str, Wrong]) -> Saved:
    record = reading.record
    down = f", {format_both(reading.drop_mm, bench.unit)} down" if reading.drop_mm else ""
    return Saved(
        key=reading.key,
        text=f"{format_degrees(reading.before_deg)} before, {format_degrees(reading.after_deg)} after",
        both=f"{'positive stop' if reading.method is core.TdcMethod.STOP else 'equal drop'}{down}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def _readers(asked: Asked, bench: Bench) -> dict[str, Reader]:
    return {"tdc-pair": lambda _: item_of_form(_form(bench, asked.POST))}


def _sheet_parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:  # noqa: ARG001
    return _parts(bench, wrong) | {"form": _form(bench), "wrong": wrong}


SHEET = declare(Sheet(station=Station.TDC, readers=_readers, parts=_sheet_parts))
