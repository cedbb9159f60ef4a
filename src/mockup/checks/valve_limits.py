"""The limits of valve to piston, apart because a drop is judged by them too."""

from mockup.engine.valves import Side
from mockup.limits.limit_set import LimitName, in_inches

FACE_INTAKE_LIMIT = LimitName(
    "face_intake",
    order=10,
    label="Intake face, least",
    usual=in_inches(
        street=0.080,
        street_floor=0.080,
        street_roller=0.065,
        turned_about=0.100,
        careful=0.120,
        small_single=0.050,
    ),
)
FACE_EXHAUST_LIMIT = LimitName(
    "face_exhaust",
    order=20,
    label="Exhaust face, least",
    usual=in_inches(
        street=0.100,
        street_floor=0.100,
        street_roller=0.125,
        turned_about=0.080,
        careful=0.120,
        small_single=0.080,
    ),
)
RADIAL_LIMIT = LimitName(
    "radial",
    order=30,
    label="Edge (radial), least",
    usual=in_inches(street_floor=0.020, small_single=0.050),
)
FACE_LIMITS = {Side.INTAKE: FACE_INTAKE_LIMIT, Side.EXHAUST: FACE_EXHAUST_LIMIT}
"""The limit of each side's valve faces."""
