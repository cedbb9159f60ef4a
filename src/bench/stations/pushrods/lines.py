"""Pushrods in words: trials and patterns in the book, lengths that can be had, and how to reach a base circle."""

from collections.abc import Mapping, Sequence
from typing import Any

from bench.page.bench import Bench
from bench.page.entering import Saved, Wrong, record_line
from mockup.engine.pushrods import Lifter
from mockup.quantity.ladder import Rung
from mockup.quantity.shown import format_bench, format_both, format_dimension, format_dimension_expanded
from mockup.quantity.value import Unit
from mockup.readings.pushrods import LengthOption, PushrodReading, WipeReading, length_options
from mockup.readings.tdc import companion
from mockup.report import Report


def base_circle(report: Report, cylinder: int) -> str:
    """Where to turn the crank so that a cylinder's valves sit on their base circles, and how it is seen."""
    order = report.job.engine.firing_order
    other = companion(order, cylinder)
    if other is None:
        return (
            f"Bring {cylinder} to firing TDC: both its valves are shut there, a full turn away from its overlap. "
            "With the firing order written down at the block, the valve to watch is named here."
        )
    return (
        f"Turn until {other} is at overlap TDC, its exhaust just closing and its intake just opening: {cylinder} is "
        "then at firing TDC, and both its valves sit on their base circles."
    )


def saved_trial(bench: Bench, reading: PushrodReading, wrong: Mapping[str, Wrong]) -> Saved:
    """A trial in the book, as the sheet shows it."""
    unit, record = bench.unit, reading.record
    closed, pitch = format_dimension(reading.closed_mm, unit), format_bench(reading.pitch_mm, unit)
    how = f"{closed} + {reading.turns:g} turns of {pitch}" if reading.turns else "by caliper"
    return Saved(
        key=reading.key,
        text=format_dimension(reading.length_mm, unit),
        both=f"{how} · {format_both(reading.length_mm, unit)} · mock-up {reading.mockup}",
        record=record_line(record.by, record.at, record.typed),
        wrong=wrong.get(f"strike-{reading.key}"),
    )


def saved_wipe(bench: Bench, reading: WipeReading, wrong: Mapping[str, Wrong]) -> Saved:
    """A wipe pattern in the book, with what it says."""
    unit, record = bench.unit, reading.record
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


def pushrod_lines(report: Report, shelf_mm: Sequence[float]) -> list[dict[str, Any]]:
    """One line a valve tried: its length as it will run, what is aimed at, the lengths either side."""
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
                "ladder": [_rung(rung, unit) for rung in figure.ladder[1:] if rung.delta.value],
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


def _rung(rung: Rung, unit: Unit) -> str:
    shown = format_bench(rung.delta.value, unit)
    return f"{rung.text}: {shown if shown.startswith('−') else f'+{shown}'}"
