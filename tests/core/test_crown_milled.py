"""The crown milled outside its reliefs: along the bore, at the valves, in volume."""

import math

import pytest

from mockup.changes.crown import CROWN_MILLED
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.head_clay import CROWN_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.valves import Relief, Side
from mockup.evaluate import evaluate
from mockup.plans.what_if import WhatIf, supposed
from mockup.readings.clay import HeadSpot
from tests.making import change, engine, inclined, job, thou
from tests.making_readings import head

MILLED = change(CROWN_MILLED, 20)


def before_and_after(**more):
    plain = job(**more)
    return evaluate(plain), evaluate(supposed(plain, WhatIf(changes=(MILLED,))))


def gained(kind, **more):
    was, now = before_and_after(**more)
    return now.of_kind(kind)[0].figure.value - was.of_kind(kind)[0].figure.value


def test_the_flat_comes_down_by_all_of_it_and_a_valve_over_a_relief_gains_nothing():
    assert gained(QUENCH_CHECK) == pytest.approx(thou(20))
    assert gained(CROWN_CHECK, heads=(head(60, HeadSpot.DOME),)) == pytest.approx(thou(20))
    assert gained(FACE_INTAKE_CHECK) == 0


def test_a_valve_that_faces_the_flat_gains_it_along_its_own_axis():
    # Plane geometry: a flat that goes down by d is d / cos a further along an axis inclined by a.
    rows = {"intake": inclined(20.0, Relief.FLAT), "exhaust": inclined(20.0)}
    flat = engine(**rows)
    assert gained(FACE_INTAKE_CHECK, engine=flat) == pytest.approx(thou(20) / math.cos(math.radians(20)))
    assert gained(FACE_EXHAUST_CHECK, engine=flat) == 0


def test_the_volume_above_the_crown_grows_by_the_flat_and_not_by_the_reliefs():
    # Independent: the metal that is gone, bore less what the reliefs open of it, as cylinders of the milled depth.
    rows = {side: inclined(0.0) for side in ("intake", "exhaust")}
    was, now = before_and_after(engine=engine(**rows))
    bore = 95.25
    whole = math.pi / 4 * bore**2 * thou(20) / 1000
    discs = sum(math.pi / 4 * (share * bore) ** 2 * thou(20) / 1000 for share in (0.42, 0.36))
    taken = whole - 0.55 * discs
    assert now.volumes[1].clearance_cc - was.volumes[1].clearance_cc == pytest.approx(taken, rel=1e-6)
    assert now.of_kind(RATIO_CHECK)[0].figure.value < was.of_kind(RATIO_CHECK)[0].figure.value


def test_once_done_decks_and_volumes_are_to_be_read_again_and_the_engine_balanced():
    done = evaluate(job(changes=(change(CROWN_MILLED, 20, 1),)))
    assert done.deck[1].carried == ("crown milled since it was read",)
    assert any(step.text.startswith("Read the deck of 1, 2 again") for step in done.steps)
    assert done.of_kind(FACE_INTAKE_CHECK)[0].read_again
    assert CROWN_MILLED.in_words(MILLED, done.job.unit, None) == "crowns milled 20 thou outside the reliefs"
    assert not CROWN_MILLED.of_a_side
    assert Side.INTAKE not in [change.side for change in done.job.changes]
