"""The volumes station: chambers and pistons, and the ratio they give."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial
from typing import Any

from django.http import HttpRequest
from django.urls import reverse

from mockup.base.stations import Station
from mockup.checks.check import Check
from mockup.checks.compression import RATIO_CHECK
from mockup.quantity.shown import cc_text, format_both, format_piston_volume, volume_text
from mockup.quantity.typed import LengthError, parse_known_to, parse_piston, parse_volume
from mockup.readings import volumes as core
from mockup.readings.record import standing
from mockup.readings.volumes import VolumeReading
from mockup.report import Report
from mockup.words.report_text import figure_text
from web.drawings.volume_column import volume_column
from web.entry.entry_forms import EntryForm, declare, view_of
from web.page.build_page import Asked, BuildPage
from web.page.read_fields import Field, Reader, Saved, Wrong, questions_by_key, record_line
from web.stations.volumes.towards import Towards, towards

KNOWN = [(core.Known.MEASURED, "measured with a burette"), (core.Known.STATED, "stated, not measured")]


def _places(page: BuildPage) -> list[int | None]:
    return [None, *range(1, page.build.engine.cylinders + 1)] if page.build.engine.cylinders > 1 else [None]


def _name(part: core.VolumePart, cylinder: int | None) -> str:
    return f"{part}-{cylinder or 'all'}"


def _readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    known = asked.POST.get("known", core.Known.MEASURED)

    def read(part: core.VolumePart, cylinder: int | None, text: str) -> core.VolumeReading:
        if known not in list(core.Known):
            raise LengthError("Choose whether it is measured or stated.")
        text, known_to = parse_known_to(text)
        cc, depth_mm = parse_volume(text) if part is core.VolumePart.CHAMBER else 0.0, 0.0
        if part is core.VolumePart.PISTON:
            typed = parse_piston(text, page.unit)
            cc, depth_mm = typed.cc, typed.depth_mm
        return core.VolumeReading(
            key="",
            part=part,
            cc=cc,
            cylinder=cylinder,
            known=core.Known(known),
            depth_mm=depth_mm,
            known_to_cc=known_to,
        )

    return {_name(part, place): partial(read, part, place) for part in core.VolumePart for place in _places(page)}


def _parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    report = page.report
    ratios = {check.cylinder: check for check in report.of_kind(RATIO_CHECK)}
    questions = questions_by_key(page)
    rows = [
        {
            "name": str(place or "all"),
            "cylinder": place or ("all" if len(_places(page)) > 1 else 1),
            "cells": [_cell(page, part, place, questions, wrong) for part in core.VolumePart],
            "ratio": figure_text(ratios[place], page.unit) if place else "",
        }
        for place in _places(page)
    ]
    solved: Towards = towards(request.GET, report)
    return {
        "folder": "volumes",
        "rows": rows,
        "known_choices": KNOWN,
        "known": request.POST.get("known", core.Known.MEASURED),
        "ratios": [check for check in ratios.values() if check.figure],
        "spread": _spread(report),
        "needs": _needs(page, ratios.values()),
        "column": volume_column(report),
        "towards": solved,
        "wrong": wrong,
    }


def _cell(
    page: BuildPage, part: core.VolumePart, place: int | None, questions: dict[str, str], wrong: dict[str, Wrong]
) -> dict[str, Any]:
    here = [r for r in standing(page.report.job.of(VolumeReading)) if r.part is part and r.cylinder == place]
    name = _name(part, place)
    label = f"{part.capitalize()} volume of {'every cylinder' if place is None else f'cylinder {place}'}"
    wanted = place is None and len(page.report.parts[part]) < page.build.engine.cylinders
    return {
        "saved": [_saved(page, reading, questions, wrong) for reading in here],
        "mean": _mean(page.report, part, place, here),
        "field": Field(name, label, str(part), int(wanted), wrong.get(name)),
    }


@dataclass(frozen=True, slots=True)
class Need:
    """What a ratio lacks, where to enter it, and the cylinders that lack it."""

    words: str
    address: str
    cylinders: list[int]


_ENTERED_AT = {"deck": "deck", "bore": "block", "stroke": "block", "no final gasket": "stack"}
"""The station of what a ratio may lack; chambers and pistons are entered here."""


def _needs(page: BuildPage, ratios: Iterable[Check]) -> list[Need]:
    """Return what the ratios without a figure lack, each with its cylinders."""
    cylinders: dict[str, list[int]] = {}
    for check in ratios:
        for words in filter(None, check.missing.split(", ")):
            cylinders.setdefault(words, []).append(check.cylinder)
    return [Need(words, _address(page, words), found) for words, found in cylinders.items()]


def _address(page: BuildPage, words: str) -> str:
    station = next((name for begins, name in _ENTERED_AT.items() if words.startswith(begins)), "")
    if not station:
        return "#volume-sheet"
    field = {"bore not stated": "#id_bore_mm", "stroke not stated": "#id_stroke_mm"}.get(words, "")
    return reverse(station, args=[page.build.pk]) + field


def _spread(report: Report) -> str:
    figures = [check.figure.value for check in report.of_kind(RATIO_CHECK) if check.figure]
    return f"{max(figures) - min(figures):.2f}" if len(figures) > 1 else ""


def _mean(report: Report, part: core.VolumePart, place: int | None, here: list[core.VolumeReading]) -> str:
    """Return the mean of several fills and their spread, or a piston's own volume."""
    figure = report.parts[part].get(place or 1)
    if figure is None or not here or figure.readings[-1] not in here:
        return ""
    own = format_piston_volume if part is core.VolumePart.PISTON else volume_text
    if len(figure.readings) > 1:
        return f"mean {own(figure.volume.value)}, spread {figure.spread_cc:.1f}"
    return own(figure.volume.value) if figure.readings[0].depth_mm else ""


def _saved(page: BuildPage, reading: core.VolumeReading, questions: dict[str, str], wrong: dict[str, Wrong]) -> Saved:
    piston = reading.part is core.VolumePart.PISTON and not reading.depth_mm
    text = format_piston_volume(reading.cc) if piston else volume_text(reading.cc)
    record = reading.record
    down = f" over a piston {format_both(reading.depth_mm, page.unit)} down" if reading.depth_mm else ""
    return Saved(
        key=reading.key,
        text=text,
        both=f"{reading.known}{down}{f', ±{cc_text(reading.known_to_cc)}' if reading.known_to_cc else ''}",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


volumes = view_of(declare(EntryForm(station=Station.VOLUMES, readers=_readers, parts=_parts)))
