"""Room to move, against a search by evaluate that knows nothing of grids, slopes or arrays."""

import pytest

from mockup.changes.cuts import DECK_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.engine.cam import CamCard
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.plans.batch import Batch, judged
from mockup.plans.room import CAM_DEG, rooms
from mockup.plans.what_if import WhatIf, supposed
from tests.making import CARD, clay, job, thou
from tests.making_jobs import change_of

ENGINES = {
    "clear": job(),
    "with a card": job(cam_card=CARD),
    "too close": job(clay=(clay(84), clay(104, 2), clay(112, 1, Side.EXHAUST), clay(111, 2, Side.EXHAUST))),
    "short": job(clay=(clay(60), clay(61, 2), clay(112, 1, Side.EXHAUST), clay(111, 2, Side.EXHAUST))),
}


def all_clear(made, lever, amount):
    labels = {check.label for check in judged(evaluate(made))}
    after = evaluate(supposed(made, WhatIf(changes=(change_of(lever, amount, made),)))) if amount else evaluate(made)
    return all(check.state is State.CLEAR for check in after.checks if check.label in labels)


@pytest.mark.parametrize("name", ENGINES)
def test_just_inside_each_end_all_is_clear_and_just_outside_it_is_not(name):
    made = ENGINES[name]
    found = rooms(Batch(evaluate(made)))
    assert {room.lever.kind for room in found} >= {GASKET_CHANGED, DECK_CUT, RELIEF_DEEPENED}
    tried = 0
    for room in found:
        # A hundredth of a degree, a thousandth of a ratio, a twentieth of a thou.
        near = {CAM_MOVED: 0.01, ROCKERS_CHANGED: 0.001}.get(room.lever.kind, thou(0.05))
        for end, check, way in ((room.low, room.low_check, -1), (room.high, room.high_check, 1)):
            if check is None or room.unknown:
                continue
            tried += 1
            assert all_clear(made, room.lever, end - way * near), (str(room.lever), end)
            assert not all_clear(made, room.lever, end + way * near), (str(room.lever), end, check.label)
    assert tried >= (3 if "clear" in name or "card" in name else 1)


def test_what_is_not_clear_now_says_what_is_in_the_way_and_the_nearest_that_is():
    found = rooms(Batch(evaluate(ENGINES["short"])))
    of_reliefs = (room for room in found if room.lever.kind is RELIEF_DEEPENED)
    relief = next(room for room in of_reliefs if room.lever.side is Side.INTAKE)
    assert not relief.holds_now
    assert relief.in_the_way.label.startswith("Intake")
    assert all_clear(ENGINES["short"], relief.lever, relief.nearest + 1e-4)
    assert not all_clear(ENGINES["short"], relief.lever, relief.nearest - thou(0.1))


def test_without_a_lobe_what_the_cam_would_do_is_not_known_and_that_is_said():
    cam = next(room for room in rooms(Batch(evaluate(job()))) if room.lever.kind is CAM_MOVED)
    assert cam.unknown
    assert cam.low is None


def test_a_cam_with_room_beyond_what_is_looked_at_ends_there_without_a_check():
    roomy = job(cam_card=CARD, clay=(clay(400), clay(410, 2), clay(420, 1, Side.EXHAUST), clay(430, 2, Side.EXHAUST)))
    cam = next(room for room in rooms(Batch(evaluate(roomy))) if room.lever.kind is CAM_MOVED)
    assert (cam.low, cam.high, cam.low_check, cam.high_check) == (-CAM_DEG, CAM_DEG, None, None)


def test_nothing_judged_has_no_rooms():
    assert rooms(Batch(evaluate(job(clay=(), deck=(), volumes=())))) == ()


def test_one_cam_is_told_once_and_two_each_by_itself():
    def cams(card):
        made = job(cam_card=card)
        return [room.lever.side for room in rooms(Batch(evaluate(made))) if room.lever.kind is CAM_MOVED]

    assert cams(CARD) == [None]
    two = CamCard(intake=CARD.intake, exhaust=CARD.exhaust, icl_deg=106.0, lsa_deg=110.0, two_cams=True)
    assert cams(two) == [None, Side.INTAKE, Side.EXHAUST]


def test_a_gasket_never_gets_thinner_than_there_are():
    made = job(final_gasket=FinalGasket(compressed_mm=0.3, bore_mm=97.0))
    gasket = next(room for room in rooms(Batch(evaluate(made))) if room.lever.kind is GASKET_CHANGED)
    assert gasket.reach[0] == pytest.approx(-0.25)
