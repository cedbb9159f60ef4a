"""Very many engines at once: each is what evaluate makes of it alone."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.checks.valve_limits import RADIAL_LIMIT
from mockup.checks.valves import RADIAL_CHECK
from mockup.engine.gasket import BaseShims
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.limit_set import Edit
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever
from mockup.plans.remedies import still_in_the_way
from mockup.plans.what_if import WhatIf, supposed
from mockup.readings.clay import ClayReading, Gap
from tests.making import barrels, change, clay, inclined, job, mockup, short_eight, thou
from tests.making_jobs import GASKETS, JOBS

MANY = {name: Batch(evaluate(one), [None, *GASKETS]) for name, one in JOBS.items()}
GASKET, SHIMS, CAM, ROCKERS, RELIEF, HEAD, DECK, RODS = (
    Lever(kind, side)
    for kind, side in (
        (GASKET_CHANGED, None),
        (SHIMS_CHANGED, None),
        (CAM_MOVED, None),
        (ROCKERS_CHANGED, None),
        (RELIEF_DEEPENED, Side.INTAKE),
        (HEAD_CUT, None),
        (DECK_CUT, None),
        (PUSHRODS_CHANGED, None),
    )
)


def amount(most, least=0.0):
    return st.just(0.0) | st.floats(least or most / 100, most)


@settings(max_examples=100)
@given(
    st.sampled_from(list(JOBS)),
    st.sampled_from([None, *GASKETS]),
    amount(8.0, -8.0),
    st.sampled_from([None, *Side]),
    amount(0.2, -0.2),
    amount(2.0),
    amount(1.0),
    amount(0.6),
    amount(3.0, -3.0),
)
def test_every_engine_of_many_is_what_evaluate_makes_of_it_alone(
    name, gasket, cam, side, ratio, relief, head, cut, rod
):
    plain = JOBS[name]
    rod = rod if plain.pushrods_chosen else 0.0
    wanted = [
        (gasket, lambda: change(GASKET_CHANGED, gasket=gasket)),
        (cam, lambda: change(CAM_MOVED, cam, side=side)),
        (ratio, lambda: change(ROCKERS_CHANGED, ratio)),
        (relief, lambda: change(RELIEF_DEEPENED, relief / thou(1), side=Side.INTAKE)),
        (head, lambda: change(HEAD_CUT, head / thou(1))),
        (cut, lambda: change(DECK_CUT, cut / thou(1))),
        (rod, lambda: change(PUSHRODS_CHANGED, rod / thou(1))),
    ]
    after = evaluate(supposed(plain, WhatIf(changes=tuple(make() for asked, make in wanted if asked))))
    at_once = {
        GASKET: 1.0 + GASKETS.index(gasket) if gasket else 0.0,
        Lever(CAM_MOVED, side): cam,
        ROCKERS: ratio,
        RELIEF: relief,
        HEAD: head,
        DECK: cut,
        RODS: rod,
    }
    found = MANY[name].figures({lever: np.array([one, 0.0]) for lever, one in at_once.items()})
    figures = {check.label: check.figure for check in after.checks}
    for at, check in enumerate(MANY[name].checks):
        figure = figures[check.label]
        assert found.value[0, at] == pytest.approx(figure.value, abs=1e-6), check.label
        assert found.u[0, at] == pytest.approx(figure.u, abs=1e-6), check.label
        assert found.expanded[0, at] == pytest.approx(figure.expanded, abs=3e-6), check.label
        # Beside it stands the engine as it is: what is changed in another changes nothing in it.
        assert (found.value[1, at], found.u[1, at]) == pytest.approx((check.figure.value, check.figure.u), abs=1e-9)


def test_an_edge_under_another_gasket_wanders_as_evaluate_says():
    leaning = barrels(intake=inclined(20.0), exhaust=inclined(20.0))
    edge = clay(60, gap=Gap.RADIAL)
    plain = job(
        engine=leaning,
        final_shims=(BaseShims(total_mm=0.7),),
        mockups=(mockup(shims_mm=0.5),),
        limits=job().limits.edited({RADIAL_LIMIT: Edit(thou(40))}),
        clay=(*job().of(ClayReading), edge),
    )
    changes = (change(SHIMS_CHANGED, 10), change(GASKET_CHANGED, gasket=GASKETS[0]))
    after = evaluate(supposed(plain, WhatIf(changes=changes)))
    many = Batch(evaluate(plain), [None, *GASKETS])
    u = many.figures({SHIMS: np.array([thou(10)]), GASKET: np.array([1.0])}).u
    at = next(at for at, check in enumerate(many.checks) if check.kind is RADIAL_CHECK)
    assert u[0, at] == pytest.approx(after.of_kind(RADIAL_CHECK)[0].figure.u, abs=1e-9)


@settings(max_examples=80)
@given(st.sampled_from(list(JOBS)), st.sampled_from(GASKETS), amount(8.0, -8.0), amount(2.0), amount(2.0), amount(1.0))
def test_what_is_clear_among_many_evaluate_leaves_nothing_in_the_way_of(name, gasket, cam, intake, exhaust, head):
    plain = JOBS[name]
    made = [change(GASKET_CHANGED, gasket=gasket)]
    made += [change(CAM_MOVED, cam)] if cam else []
    made += [change(RELIEF_DEEPENED, intake / thou(1), side=Side.INTAKE)] if intake else []
    made += [change(RELIEF_DEEPENED, exhaust / thou(1), side=Side.EXHAUST)] if exhaust else []
    made += [change(HEAD_CUT, head / thou(1))] if head else []
    amounts = {
        GASKET: np.array([1.0 + GASKETS.index(gasket)]),
        CAM: np.array([cam]),
        RELIEF: np.array([intake]),
        Lever(RELIEF_DEEPENED, Side.EXHAUST): np.array([exhaust]),
        HEAD: np.array([head]),
    }
    many = MANY[name]
    slack = float(many.slack(amounts).min())
    if abs(slack) > 1e-5:
        left = still_in_the_way(evaluate(supposed(plain, WhatIf(changes=tuple(made)))))
        assert bool(many.clear(amounts)[0]) == (slack > 0) == (left == [])


def test_without_a_lobe_only_the_engines_whose_cam_is_moved_are_not_known():
    many = Batch(evaluate(short_eight(cam_card=None)))
    found = many.figures({CAM: np.array([0.0, 2.0]), HEAD: np.array([0.0, 0.1])})
    faces = [check.side is not None for check in many.checks]
    assert np.isnan(found.value[1]).tolist() == faces
    assert not np.isnan(found.value[0]).any()
    assert many.clear({CAM: np.array([2.0])}).tolist() == [False]
