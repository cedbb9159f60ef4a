"""Readings of cams, valves and pushrods for tests of the core."""

from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.cam import LobeTable
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.readings.cam_timing import DegreeReading
from mockup.readings.clay import HeadReading, HeadSpot
from mockup.readings.pushrods import PushrodReading
from mockup.readings.sweep import SweepReading
from tests.making import thou


def table(side=Side.INTAKE, step=5, half_width=120.0, lift=9.0, **changes):
    """A lobe in closed form at even steps."""
    angles = tuple(float(angle) for angle in range(-130, 131, step))
    lifts = tuple(lift * max(1 - abs(angle / half_width) ** 2.2, 0.0) ** 3 for angle in angles)
    return LobeTable(**({"side": side, "angles_deg": angles, "lifts_mm": lifts} | changes))


def degree(side, opening, closing, lift=200, **changes):
    plain = {"key": f"d{side}{opening}{closing}", "side": side, "lift_mm": thou(lift)}
    return DegreeReading(**(plain | {"opening_deg": opening, "closing_deg": closing} | changes))


def sweep(angle, down_thou, side=Side.INTAKE, cylinder=1, **changes):
    plain = {"key": f"s{cylinder}{side}{angle}{len(changes)}", "mockup": "A", "place": Place(cylinder, side)}
    return SweepReading(**(plain | {"crank_deg": float(angle), "clearance_mm": thou(down_thou)} | changes))


SWEPT = tuple(sweep(angle, down) for angle, down in ((0, 95.5), (5, 85.5), (10, 92), (15, 116), (20, 155)))


def intake(made, cylinder=1):
    return next(c for c in evaluate(made).of_kind(FACE_INTAKE_CHECK) if c.cylinder == cylinder)


def head(thickness, spot=HeadSpot.PAD, cylinder=1, **changes):
    plain = {"key": f"{spot.name}{cylinder}{thickness}{len(changes)}", "mockup": "A", "cylinder": cylinder}
    return HeadReading(**(plain | {"spot": spot, "thickness_mm": thou(thickness)} | changes))


PLACE = Place(1, Side.INTAKE)


def trial(turns=11.5, closed=6.8, **changes):
    plain = {"key": f"r{turns}", "mockup": "A", "place": PLACE, "closed_mm": closed * 25.4, "turns": turns}
    return PushrodReading(**(plain | {"pitch_mm": thou(50)} | changes))
