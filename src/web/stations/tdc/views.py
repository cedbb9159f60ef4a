"""The TDC station: pairs of wheel readings, the wheel's error, and which TDC is which."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from mockup.base.stations import Station
from mockup.quantity.shown import format_both, format_degrees
from mockup.readings import tdc as core
from mockup.readings.instruments import INDICATOR
from web.builds import services
from web.drawings.degree_wheel import degree_wheel
from web.entry.entry_forms import EntryForm, declare, take_posted
from web.entry.grouped_fields import item_of_form
from web.page.answers import answer
from web.page.build_page import Asked, BuildPage, build_page_or_404
from web.page.read_fields import Reader, Saved, Wrong, instrument_choices, record_line
from web.shops.access import member_writes, person_of
from web.stations.tdc.form import TdcForm


@member_writes
def tdc(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the wheel; accept pairs of readings and strike them out."""
    page = build_page_or_404(build_id)
    wrong: dict[str, Wrong] = {}
    typed = request.method == "POST" and not {"strike", "undo"} & set(request.POST)
    form = _form(page, request.POST if typed else None)
    if typed and form.is_valid():
        _write(request, page, form)
        form = _form(page, kept={name: form.cleaned_data[name] for name in ("method", "instrument")})
    elif request.method == "POST" and not typed:
        wrong = take_posted(request, page, ENTRY_FORM)
    parts = _parts(page, wrong) | {"form": form, "wrong": wrong or form.errors}
    return answer(request, page, Station.TDC, reverse("tdc", args=[build_id]), parts)


def _form(page: BuildPage, posted: Any = None, kept: dict[str, Any] | None = None) -> TdcForm:
    return TdcForm(page.unit, instrument_choices(page, INDICATOR), posted, initial=kept)


def _write(request: HttpRequest, page: BuildPage, form: TdcForm) -> None:
    typed = f"{form.data['before_deg']} before, {form.data['after_deg']} after"
    services.write(page.build, form.item, person_of(request), typed=typed)
    page.refresh()


def _parts(page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report = page.report
    figure = report.tdc.figure
    order = report.job.engine.firing_order
    return {
        "folder": "tdc",
        "saved": [_saved(page, reading, wrong) for reading in (figure.readings if figure else ())],
        "figure": figure,
        "error": format_degrees(abs(figure.error_deg.value)) if figure else "",
        "error_u": format_degrees(figure.error_deg.expanded) if figure else "",
        "set_to": format_degrees(figure.set_to_deg) if figure else "",
        "dwell": format_degrees(report.tdc.dwell_deg),
        "first": order[0] if order else None,
        "companion": report.tdc.companion,
        "wheel": degree_wheel(figure) if figure else None,
    }


def _saved(page: BuildPage, reading: core.TdcReading, wrong: dict[str, Wrong]) -> Saved:
    record = reading.record
    down = f", {format_both(reading.drop_mm, page.unit)} down" if reading.drop_mm else ""
    return Saved(
        key=reading.key,
        text=f"{format_degrees(reading.before_deg)} before, {format_degrees(reading.after_deg)} after",
        both=f"{'positive stop' if reading.method is core.TdcMethod.STOP else 'equal drop'}{down}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def _readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    return {"tdc-pair": lambda _: item_of_form(_form(page, asked.POST))}


def _form_parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:  # noqa: ARG001
    return _parts(page, wrong) | {"form": _form(page), "wrong": wrong}


ENTRY_FORM = declare(EntryForm(station=Station.TDC, readers=_readers, parts=_form_parts))
