"""Pushrods, clay at plug and dome, firing orders and the map, against geometry."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mockup.changes.cuts import HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.checks.head_clay import CROWN_CHECK
from mockup.engine.gasket import FinalGasket
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever
from mockup.plans.room_map import room_map
from mockup.readings.clay import HeadSpot
from mockup.readings.tdc import companion
from tests.making import change, job, mockup, thou, with_readings
from tests.making_readings import head, trial

# Throws of the usual even-firing cranks [deg], in the order of their cylinders, with firing orders that go with them:
# handbook knowledge, from memory. The vee has two cylinders a throw, odd ones on the bank at -45 degrees.
INLINE = {
    (1, 3, 4, 2): (0, 180, 180, 0),
    (1, 2, 4, 3): (0, 180, 180, 0),
    (1, 5, 3, 6, 2, 4): (0, 120, 240, 240, 120, 0),
    (1, 4, 2, 6, 3, 5): (0, 240, 120, 120, 240, 0),
    (1, 6, 2, 5, 8, 3, 7, 4): (0, 180, 90, 270, 270, 90, 180, 0),
}
VEE_THROWS = (0, 270, 90, 180)
VEE_ORDER = (1, 8, 4, 3, 6, 5, 7, 2)


def at_tdc_deg(order):
    """The crank angle at which each piston is at its top, from throw and bank."""
    if order == VEE_ORDER:
        banks = {cylinder: -45 if cylinder % 2 else 45 for cylinder in order}
        return {cylinder: (banks[cylinder] - VEE_THROWS[(cylinder - 1) // 2]) % 360 for cylinder in order}
    return {cylinder: -INLINE[order][cylinder - 1] % 360 for cylinder in order}


@pytest.mark.parametrize("order", [*INLINE, VEE_ORDER], ids=str)
def test_the_one_at_overlap_has_its_piston_at_the_top_too_and_fires_a_turn_later(order):
    top, apart = at_tdc_deg(order), 720 / len(order)
    for cylinder in order:
        other = companion(order, cylinder)
        assert (other != cylinder, top[other]) == (True, top[cylinder])
        assert abs(order.index(other) - order.index(cylinder)) * apart == 360
        assert companion(order, other) == cylinder


@pytest.mark.parametrize("lean_deg", [0.0, 4.0, 9.0])
@pytest.mark.parametrize(("final", "cut"), [(36, 0), (51, 0), (36, 12), (30, 8)])
def test_a_pushrod_is_as_long_as_the_distance_between_its_two_cups(lean_deg, final, cut):
    # Two points in a plane: the lifter's cup stays, the rocker's moves with the head along the bore.
    tried_mm = (6.8 + 11.5 * 0.050) * 25.4
    lean = math.radians(lean_deg)
    rocker = np.array([tried_mm * math.sin(lean), tried_mm * math.cos(lean)])
    moved = rocker + np.array([0.0, thou(final - 36 - cut)])
    choice = PushrodChoice(low_mm=0.5, aim_mm=0.8, high_mm=1.2, lean_deg=lean_deg)
    made = job(
        final_gasket=FinalGasket(compressed_mm=thou(final), bore_mm=97.0),
        pushrods=(trial(),),
        pushrod_choice=choice,
        changes=(change(HEAD_CUT, cut),) if cut else (),
    )
    figure = evaluate(made).pushrods[Place(1, Side.INTAKE)]
    # The program takes the lean as constant: 10 thou turn a pushrod of 7 in by less than 0.02 degrees.
    assert figure.zero.value == pytest.approx(math.hypot(*moved), abs=2e-4)
    assert choice.target_mm(figure.zero.value, 1.5) - figure.zero.value == pytest.approx(0.8)


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("spot", [HeadSpot.PLUG, HeadSpot.DOME])
def test_clay_at_plug_and_dome_gives_the_gap_of_a_stack_of_parts(seed, spot):
    rng = np.random.default_rng(seed)
    mocked, final, cut = rng.uniform(30, 60), rng.uniform(30, 60), rng.uniform(1, 15)
    # Heights above the deck [thou]: the place in the head over the gasket's top, and what stands up of the piston.
    place, piston = rng.uniform(300, 600), rng.uniform(0, 250)
    clay = mocked + place - piston
    truth = final + (place - cut) - piston
    plain = job(
        mockups=(mockup(gasket_mm=thou(mocked)),),
        final_gasket=FinalGasket(compressed_mm=thou(final), bore_mm=97.0),
        changes=(change(HEAD_CUT, cut),),
    )
    (check,) = evaluate(with_readings(plain, heads=(head(clay, spot),))).of_kind(CROWN_CHECK)
    assert check.figure.value == pytest.approx(thou(truth), abs=1e-9)


def test_the_map_of_a_gasket_and_a_relief_is_two_planes_with_a_fold():
    # Upright valves: a gasket opens both faces by its thickness, a relief its own by its depth, and nothing else.
    made = replace(job(), readings=tuple(one for one in job().readings if type(one).__name__ == "ClayReading"))
    report = evaluate(made)
    faces = [check for check in report.checks if check.side and check.margin is not None]
    least = {side: min(check.margin for check in faces if check.side is side) for side in Side}
    found = room_map(Batch(report), Lever(GASKET_CHANGED), Lever(RELIEF_DEEPENED, Side.INTAKE))
    across, up = np.meshgrid(found.x, found.y)
    wanted = np.minimum(least[Side.INTAKE] + across + up, least[Side.EXHAUST] + across)
    assert np.allclose(found.margin, wanted, atol=1e-9)
