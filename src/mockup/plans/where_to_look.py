"""Before a valve is read: where its closest point is by the cam, and whether clay can tell.

The angle of the closest point needs no drop: k P - L is least there (docs/how-it-computes.md, "Closest approach").
"""

from mockup.checks.check import Check
from mockup.checks.valves import FACE_KINDS
from mockup.engine.valves import Side
from mockup.fit.approach import approach_of
from mockup.limits.judge import SLACK
from mockup.quantity.value import MM_PER_THOU
from mockup.report import Report

CLAY_IS_BLIND_MM = 5 * MM_PER_THOU
"""Clay is not the method for the last 5 thou: common practice, no source."""


def closest_by_the_cam_deg(report: Report, side: Side) -> float | None:
    """Return where a side's valves come nearest by their cam, about overlap TDC [deg].

    None without a card or a measured lobe and the rocker ratio.
    """
    cam = report.context.cams.get(side)
    if cam is None:
        return None
    approach = approach_of(report.engine, report.crank, cam, (), 0)
    _, at_deg = approach.least(approach.read)
    return float(at_deg[0])


def too_near_for_clay(report: Report, cylinder: int) -> list[Check]:
    """Return a cylinder's unread valves that seem too near their minimum for clay to tell."""
    return [
        check
        for kind in FACE_KINDS.values()
        for check in report.of_kind(kind)
        if check.cylinder == cylinder and not check.governing and _is_near(check)
    ]


def _is_near(check: Check) -> bool:
    figure = check.inferred.figure if check.inferred else None
    return figure is not None and abs(figure.value - (check.limit.low or 0.0)) <= CLAY_IS_BLIND_MM + SLACK
