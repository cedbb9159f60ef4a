"""Margin sheets ready to use: the schools of the trade in our own words. Common practice, no source.

What each asks stands with the checks that are judged by it.
"""

from collections.abc import Mapping
from types import MappingProxyType

from mockup.limits.margins import Coverage, MarginSheet

MAKERS = "makers"

_SHEETS = (
    MarginSheet(
        key="street",
        title="Street, usual",
        says="The commonest figures for a road engine; edges are watched, not limited.",
    ),
    MarginSheet(
        key="street-floor",
        title="Street, floor",
        says="The least some accept. Light springs, flat tappets and street use want more.",
    ),
    MarginSheet(
        key="street-roller",
        title="Street, hydraulic roller",
        says="Closer on the intake, wider on the exhaust; watch the edge.",
    ),
    MarginSheet(
        key="turned-about",
        title="Turned about",
        says="More on the intake than on the exhaust.",
        question="This sheet asks more of the intake than of the exhaust; most do the opposite. Is that meant?",
    ),
    MarginSheet(
        key="careful",
        title="Careful",
        says="Plenty on every valve of every cylinder, the edge gap even all round; more again with aluminium rods.",
        coverage=Coverage.EVERY,
    ),
    MarginSheet(
        key="small-single",
        title="Small single",
        says="Small engines of one cylinder.",
        coverage=Coverage.EVERY,
    ),
    MarginSheet(
        key="loaded",
        title="Measured loaded",
        says="Class racing, judged with running springs. It has no figures until you enter your own.",
        coverage=Coverage.EVERY,
        judged_loaded=True,
        question="Judged loaded, the bend of the valve train counts as clearance. A missed shift takes it back.",
    ),
    MarginSheet(
        key=MAKERS,
        title="Makers’ figures",
        says="Empty until you enter what the cam, piston and engine makers ask. Their figures overrule every other.",
        coverage=Coverage.EVERY,
    ),
)

READY_MADE: Mapping[str, MarginSheet] = MappingProxyType({sheet.key: sheet for sheet in _SHEETS})
"""By key, in the order they are offered."""
