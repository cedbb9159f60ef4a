"""The cam in words: how each side stands, what was read of it, what arrived at the valves."""

from collections.abc import Mapping
from typing import Any

from bench.page.entering import Saved, Wrong, record_line
from mockup.engine.valves import Side
from mockup.quantity.shown import format_bench, format_both, format_degrees
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import Unit
from mockup.readings.cam import SideCam
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.record import standing
from mockup.report import Report

CENTRELINES = {Side.INTAKE: "ICL", Side.EXHAUST: "ECL"}
POINTS = {Side.INTAKE: "ATDC", Side.EXHAUST: "BTDC"}


def side_lines(report: Report) -> list[dict[str, str]]:
    """One line a side of the cam."""
    return [_side(one, report.job.unit) for one in report.cam.sides.values()]


def _side(one: SideCam, unit: Unit) -> dict[str, str]:
    return {
        "side": str(one.side),
        "centreline": f"{CENTRELINES[one.side]} {one.shown_deg:.1f} {POINTS[one.side]} ±{one.centreline.expanded:.1f}",
        "how": "degreed" if one.degreed else "by its card, not degreed",
        "late": _late(one.late_deg),
        "spread": format_degrees(one.degreed.spread_deg) if one.degreed and one.degreed.spread_deg is not None else "",
        "lobe": "measured" if one.train.lobe.measured else "estimated from its card",
        "lift": format_bench(one.train.lift_max_mm, unit),
        "events": f"{format_crank_angle(one.opens_deg)} to {format_crank_angle(one.closes_deg)}"
        if one.opens_deg is not None and one.closes_deg is not None
        else "",
    }


def _late(degrees: float | None) -> str:
    if degrees is None:
        return ""
    shown = format_degrees(abs(degrees))
    if shown == "0°":
        return "as its card"
    return f"{shown} {'retarded' if degrees > 0 else 'advanced'} against its card"


def degree_lines(report: Report, wrong: Mapping[str, Wrong]) -> list[dict[str, Any]]:
    """The wheel angles in the book, each with the middle it gives."""
    return [_degree(reading, report.job.unit, wrong) for reading in standing(report.job.of_this_cam(DegreeReading))]


def of_the_cam_before(report: Report) -> int:
    """How many pairs of angles and lifts stand in the book that were read of a cam that is out."""
    job = report.job
    return sum(
        len(standing(job.of(kind))) - len(standing(job.of_this_cam(kind))) for kind in (DegreeReading, LiftReading)
    )


def _degree(reading: DegreeReading, unit: Unit, wrong: Mapping[str, Wrong]) -> dict[str, Any]:
    record = reading.record
    middle = (reading.opening_deg + reading.closing_deg) / 2
    angles = f"{format_crank_angle(reading.opening_deg)}, {format_crank_angle(reading.closing_deg)}"
    return {
        "side": reading.side,
        "lift": format_bench(reading.lift_mm, unit),
        "middle": format_crank_angle(middle),
        "saved": Saved(
            key=reading.key,
            text=angles,
            both=f"at {format_both(reading.lift_mm, unit)}, wheel {'set right' if reading.wheel_set else 'as it was'}",
            record=record_line(record.by, record.at, record.typed),
            wrong=wrong.get(f"strike-{reading.key}"),
        ),
    }


def arrived_lines(report: Report) -> list[dict[str, str]]:
    """What arrived at each valve that was watched."""
    unit = report.job.unit
    counts = {side: report.job.engine.row(side).count for side in Side}
    return [
        {
            "label": f"{one.reading.place.label(counts[one.reading.place.side])}, mock-up {one.reading.mockup}",
            "lift": format_bench(one.reading.lift_mm, unit),
            "ratio": f"{one.ratio:.3f}" if one.ratio is not None else "lobe not known",
            "bend": format_bench(one.bend_mm, unit) if one.bend_mm is not None else "",
            "springs": "running springs" if one.loaded else "checking springs",
        }
        for one in report.arrived
    ]
