"""Margin sheets ready to use: the schools of the trade in our own words. Common practice, no source."""

from collections.abc import Mapping
from types import MappingProxyType

from mockup.limits.margins import Coverage, LimitName, MarginSheet
from mockup.quantity.value import MM_PER_INCH


def _inches(**limits: float) -> Mapping[LimitName, float]:
    return MappingProxyType({LimitName(name): round(inch * MM_PER_INCH, 6) for name, inch in limits.items()})


MAKERS = "makers"

_SHEETS = (
    MarginSheet(
        key="street",
        title="Street, usual",
        says="The commonest figures for a road engine; edges are watched, not limited.",
        limits=_inches(face_intake=0.080, face_exhaust=0.100, quench_low=0.035, quench_high=0.045),
    ),
    MarginSheet(
        key="street-floor",
        title="Street, floor",
        says="The least some accept. Light springs, flat tappets and street use want more.",
        limits=_inches(face_intake=0.080, face_exhaust=0.100, radial=0.020, quench_low=0.035, quench_high=0.045),
    ),
    MarginSheet(
        key="street-roller",
        title="Street, hydraulic roller",
        says="Closer on the intake, wider on the exhaust; watch the edge.",
        limits=_inches(face_intake=0.065, face_exhaust=0.125, quench_low=0.035, quench_high=0.045),
    ),
    MarginSheet(
        key="turned-about",
        title="Turned about",
        says="More on the intake than on the exhaust.",
        limits=_inches(face_intake=0.100, face_exhaust=0.080, quench_low=0.035, quench_high=0.045),
        question="This sheet asks more of the intake than of the exhaust; most do the opposite. Is that meant?",
    ),
    MarginSheet(
        key="careful",
        title="Careful",
        says="Plenty on every valve of every cylinder, the edge gap even all round; more again with aluminium rods.",
        limits=_inches(face_intake=0.120, face_exhaust=0.120, quench_low=0.035, quench_high=0.050),
        coverage=Coverage.EVERY,
    ),
    MarginSheet(
        key="small-single",
        title="Small single",
        says="Small engines of one cylinder.",
        limits=_inches(face_intake=0.050, face_exhaust=0.080, radial=0.050),
        coverage=Coverage.EVERY,
    ),
    MarginSheet(
        key="loaded",
        title="Measured loaded",
        says="Class racing, judged with running springs. It has no figures until you enter your own.",
        limits=_inches(),
        coverage=Coverage.EVERY,
        judged_loaded=True,
        question="Judged loaded, the bend of the valve train counts as clearance. A missed shift takes it back.",
    ),
    MarginSheet(
        key=MAKERS,
        title="Makers’ figures",
        says="Empty until you enter what the cam, piston and engine makers ask. Their figures overrule every other.",
        limits=_inches(),
        coverage=Coverage.EVERY,
    ),
)

READY_MADE: Mapping[str, MarginSheet] = MappingProxyType({sheet.key: sheet for sheet in _SHEETS})
"""By key, in the order they are offered."""
