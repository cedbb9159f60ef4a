"""Piston-to-valve clearance by clay: from the thickness as read to the clearance as the engine will run.

Corrections along the valve axis, one rung each (geometry: docs/how-it-computes.md, "From clay to running"):
square-to-crown clay on a flat crown divided by cos a; gasket k (g_final - g_mockup); lash left in taken
off; soft dough made less sure.
"""

import math
from collections.abc import Mapping, Sequence

from mockup.checks.check import Finding, Rung, Trust, running_figure
from mockup.checks.conditions import snugged_too_near, standing_of
from mockup.checks.judge import daylight
from mockup.checks.margins import LimitName, MarginSheet
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import Clay, MockUp
from mockup.engine.valves import Relief, Side
from mockup.quantity.value import Value, rectangular
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.instruments import Instrument

DOUGH_U_MM = 0.10
"""Added to readings in soft dough: common practice, no source."""

NO_FINAL_GASKET = "Choose the final gasket: without it the running figure is not known."
TORQUE_IT = "Within 0.005 in of the limit with the head only snugged: torque it and measure again."


def clay_finding(
    readings: Sequence[ClayReading],
    mockup: MockUp,
    engine: Engine,
    final: FinalGasket | None,
    sheet: MarginSheet,
    instruments: Mapping[str, Instrument],
) -> Finding:
    """What the clay of one valve (its readings thinnest first, at least one) says in one mock-up.

    The figure is None where the readings are void or the final gasket is not chosen.
    """
    thinnest = readings[0]
    standing = standing_of(mockup)
    first = Rung(_as_read(len(readings)), Value(thinnest.thickness_mm, instruments[thinnest.instrument].u_mm))
    rungs = [first, *_corrections(thinnest, mockup, engine, final)]
    cautions = list(standing.cautions)
    figure = None
    if final is None:
        cautions.append(NO_FINAL_GASKET)
    elif standing.trust is not Trust.VOID:
        figure = running_figure(tuple(rungs))
        if snugged_too_near(mockup, daylight(figure, sheet.minimum(limit_name(thinnest)))):
            cautions.append(TORQUE_IT)
    return Finding(
        figure=figure,
        bound=standing.bound(sheet),
        trust=standing.trust,
        method=f"clay, mock-up {mockup.key}",
        ladder=tuple(rungs),
        evidence=tuple(reading.key for reading in readings),
        cautions=tuple(cautions),
    )


def limit_name(reading: ClayReading) -> LimitName:
    """The limit a clay reading is judged against."""
    if reading.gap is Gap.RADIAL:
        return LimitName.RADIAL
    return LimitName.FACE_INTAKE if reading.place.side is Side.INTAKE else LimitName.FACE_EXHAUST


def _as_read(count: int) -> str:
    return "as read, one thickness" if count == 1 else f"as read, thinnest of {count}"


def _corrections(reading: ClayReading, mockup: MockUp, engine: Engine, final: FinalGasket | None) -> list[Rung]:
    rungs = [] if final is None else [_gasket(reading, mockup, engine, final)]
    if reading.gap is Gap.FACE:
        rungs = _square_to_crown(reading, engine) + rungs + _lash(mockup, engine)
    if mockup.clay is Clay.DOUGH:
        rungs.append(Rung("soft dough springs back", Value(0.0, DOUGH_U_MM)))
    return rungs


def _square_to_crown(reading: ClayReading, engine: Engine) -> list[Rung]:
    row = engine.row(reading.place.side)
    if row.relief is not Relief.FLAT or not row.inclination_deg:
        return []
    gain = 1 / math.cos(math.radians(row.inclination_deg)) - 1
    return [Rung("read square to the crown, taken along the valve", Value(reading.thickness_mm * gain))]


def _gasket(reading: ClayReading, mockup: MockUp, engine: Engine, final: FinalGasket) -> Rung:
    row = engine.row(reading.place.side)
    change = final.thickness + mockup.gasket.scaled(-1)
    if reading.gap is Gap.FACE:
        return Rung("gasket as mocked up, to the final one", change.scaled(row.axial_factor))
    # A valve at an angle wanders sideways as the head rises; toward which wall is not known from the
    # reading, so the shift is counted as uncertainty and not as a correction.
    shift = abs(change.value) * math.sin(math.radians(row.inclination_deg))
    return Rung("gasket change moves the valve sideways, either way", Value(0.0, rectangular(shift)))


def _lash(mockup: MockUp, engine: Engine) -> list[Rung]:
    # All of it comes off: how much of the lash the lobe has taken up at the closest point is not known
    # without the cam, and lash is never credited.
    lash = mockup.lash_at_valve_mm(engine.rocker_ratio)
    return [Rung("lash left in, never counted on", Value(-lash))] if lash else []
