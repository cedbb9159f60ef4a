"""The cam in words: each side's position, its readings, the lift at the valves."""

from collections.abc import Mapping
from typing import Any

from mockup.engine.valves import Side
from mockup.fit.cam_report import SideCam
from mockup.quantity.shown import format_bench, format_both, format_degrees
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import Unit
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.record import standing
from mockup.report import Report
from web.page.read_fields import Saved, Wrong, record_line

CENTRELINES = {Side.INTAKE: "ICL", Side.EXHAUST: "ECL"}
POINTS = {Side.INTAKE: "ATDC", Side.EXHAUST: "BTDC"}


def side_rows(report: Report) -> list[dict[str, str]]:
    """Return one row for each side of the cam."""
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


def degree_rows(report: Report, wrong: Mapping[str, Wrong]) -> list[dict[str, Any]]:
    """Return the wheel angles in the log, each with its middle."""
    return [_degree(reading, report.job.unit, wrong) for reading in standing(report.job.of_this_cam(DegreeReading))]


def of_the_cam_before(report: Report) -> int:
    """Return how many pairs of angles and lifts in the log are of an earlier cam."""
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
            both=f"at {format_both(reading.lift_mm, unit)}, wheel {'corrected' if reading.wheel_set else 'as it was'}",
            record=record_line(record.by, record.at, record.typed),
            wrong=wrong.get(f"strike-{reading.key}"),
        ),
    }


def arrived_rows(report: Report) -> list[dict[str, str]]:
    """Return the lift measured at each valve."""
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
