"""Pushrods in words: trials, patterns, available lengths, how to reach a base circle."""

from collections.abc import Mapping, Sequence
from typing import Any

from mockup.engine.pushrods import Lifter
from mockup.fit.pushrod_figures import LengthOption, length_options
from mockup.quantity.corrections import Correction
from mockup.quantity.shown import format_bench, format_both, format_dimension, format_dimension_expanded
from mockup.quantity.value import Unit
from mockup.readings.pushrods import PushrodReading, WipeReading
from mockup.readings.tdc import companion
from mockup.report import Report
from web.page.build_page import BuildPage
from web.page.read_fields import Saved, Wrong, record_line

BY_THE_OTHER = (
    "Or by the other valve of the cylinder: the intake is on its base circle as the exhaust begins to open, the "
    "exhaust as the intake is nearly closed."
)


def base_circle(report: Report, cylinder: int) -> str:
    """Return where to turn the crank for a cylinder's base circles, and how to see it."""
    order = report.job.engine.firing_order
    other = companion(order, cylinder)
    if other is None:
        return (
            f"Bring {cylinder} to firing TDC: both its valves are shut there, a full turn away from its overlap. "
            f"With the firing order entered at the block, the valve to watch is named here. {BY_THE_OTHER}"
        )
    return (
        f"Turn until {other} is at overlap TDC, its exhaust just closing and its intake just opening: {cylinder} is "
        f"then at firing TDC, and both its valves are on their base circles. {BY_THE_OTHER}"
    )


def saved_trial(page: BuildPage, reading: PushrodReading, wrong: Mapping[str, Wrong]) -> Saved:
    """Return a trial in the log, as the form shows it."""
    unit, record = page.unit, reading.record
    closed, pitch = format_dimension(reading.closed_mm, unit), format_bench(reading.pitch_mm, unit)
    how = f"{closed} + {reading.turns:g} turns of {pitch}" if reading.turns else "by caliper"
    return Saved(
        key=reading.key,
        text=format_dimension(reading.length_mm, unit),
        both=f"{how} · {format_both(reading.length_mm, unit)} · mock-up {reading.mockup}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def saved_wipe(page: BuildPage, reading: WipeReading, wrong: Mapping[str, Wrong]) -> Saved:
    """Return a wipe pattern in the log, with its result."""
    unit, record = page.unit, reading.record
    off = reading.off_centre_mm
    where = "centred" if reading.centred else f"{format_bench(abs(off), unit)} {'outward' if off > 0 else 'inward'}"
    square = {None: "", True: ", square", False: ", not square"}[reading.square]
    if reading.half_lift_deg is not None:
        square += f": {reading.half_lift_deg:g}° at half lift"
    return Saved(
        key=reading.key,
        text=f"{format_bench(reading.width_mm, unit)} wide, {where}{square}",
        both=f"from {format_both(reading.start_mm, unit)} to {format_both(reading.end_mm, unit)}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def pushrod_rows(report: Report, shelf_mm: Sequence[float]) -> list[dict[str, Any]]:
    """Return a row for each valve tried: length, target, lengths on both sides."""
    unit, choice, ratio = report.job.unit, report.job.pushrod_choice, report.job.engine.ratio
    lines = []
    for place, figure in report.pushrods.items():
        zero = figure.zero.value
        options = length_options(choice, zero, ratio, shelf_mm) if choice else ()
        lines.append(
            {
                "label": place.label(report.job.engine.row(place.side).count),
                "side": place.side,
                "zero": f"{format_dimension(zero, unit)} ±{format_dimension_expanded(figure.zero.expanded, unit)}",
                "spread": format_bench(figure.spread_mm, unit) if len(figure.readings) > 1 else "",
                "target": format_dimension(choice.target_mm(zero, ratio), unit) if choice else "",
                "options": [_option(one, unit) for one in options],
                "corrections": [
                    _correction(correction, unit) for correction in figure.corrections[1:] if correction.delta.value
                ],
                "carried": ", ".join(figure.carried),
                "gives": "preload" if choice and choice.lifter is Lifter.HYDRAULIC else "lash",
            }
        )
    return lines


def _option(one: LengthOption, unit: Unit) -> dict[str, Any]:
    return {
        "length": format_dimension(one.length_mm, unit),
        "gives": format_bench(one.gives_mm, unit),
        "fits": one.fits,
    }


def _correction(correction: Correction, unit: Unit) -> str:
    shown = format_bench(correction.delta.value, unit)
    return f"{correction.text}: {shown if shown.startswith('−') else f'+{shown}'}"
