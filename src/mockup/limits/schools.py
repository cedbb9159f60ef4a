"""Ready-made sets of limits: the schools of the trade in our own words.

Common practice, no source.

The figures are declared with the checks that are judged by them.
"""

from collections.abc import Mapping
from types import MappingProxyType

from mockup.limits.limit_set import Coverage, LimitSet

MAKERS = "makers"

_SHEETS = (
    LimitSet(
        key="street",
        title="Street, usual",
        says="The commonest figures for a road engine; edges are watched, not limited.",
    ),
    LimitSet(
        key="street-floor",
        title="Street, floor",
        says="The least some accept. Light springs, flat tappets and street use want more.",
    ),
    LimitSet(
        key="street-roller",
        title="Street, hydraulic roller",
        says="Closer on the intake, wider on the exhaust; watch the edge.",
    ),
    LimitSet(
        key="turned-about",
        title="Turned about",
        says="More on the intake than on the exhaust.",
        question="These limits ask more of the intake than of the exhaust; most do the opposite. Is that meant?",
    ),
    LimitSet(
        key="careful",
        title="Careful",
        says="Plenty on every valve of every cylinder, with an even edge gap; more still with aluminium rods.",
        coverage=Coverage.EVERY,
    ),
    LimitSet(
        key="small-single",
        title="Small single",
        says="Small engines with one cylinder.",
        coverage=Coverage.EVERY,
    ),
    LimitSet(
        key="loaded",
        title="Measured loaded",
        says="Class racing, judged with running springs. It is empty until you enter your own limits.",
        coverage=Coverage.EVERY,
        judged_loaded=True,
        question="Judged loaded, the bending of the valve train counts as clearance. A missed shift takes it back.",
    ),
    LimitSet(
        key=MAKERS,
        title="Makers’ figures",
        says="Empty until you enter what the cam, piston and engine makers ask. Their figures overrule all others.",
        coverage=Coverage.EVERY,
    ),
)

READY_MADE: Mapping[str, LimitSet] = MappingProxyType({limits.key: limits for limits in _SHEETS})
"""The ready-made sets by key, in the order offered."""
