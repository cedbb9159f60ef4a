"""The list for final assembly, made from the build."""

from dataclasses import replace

import pytest

from mockup.advice.assembly_list import final_assembly
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import Fasteners, Lifters, PistonsIn
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.plans.what_if import WhatIf, supposed
from tests.making import CARD, barrels, change, clay, engine, inclined, job, mockup, thou, volumes


def keys(plain):
    return {item.key: f"{item.words} {item.why}" for item in final_assembly(evaluate(plain))}


def test_the_list_comes_from_what_the_mock_up_left_in_the_engine():
    found = keys(job(mockups=(mockup(fasteners=Fasteners.STRETCH, pistons=PistonsIn.REVERSED),)))
    assert {"clay", "stretch", "lifters", "springs", "backwards", "gasket", "sealant", "turn"} <= set(found)
    assert "old-bolts" not in found
    assert "used once" in found["stretch"]
    assert "36 thou compressed" in found["gasket"]
    solid = keys(job(mockups=(mockup(lifters=Lifters.SOLID),), clay=()))
    assert not {"lifters", "clay"} & set(solid)


def test_work_done_asks_for_its_own_lines():
    assert "balance" not in keys(job())
    relief = keys(job(changes=(change(RELIEF_DEEPENED, 20, side=Side.INTAKE),)))
    assert "balanced after piston work" in relief["balance"]
    assert "head-work" in keys(job(changes=(change(HEAD_CUT, 10),)))
    assert "deck-clean" in keys(job(changes=(change(DECK_CUT, 2),)))
    thick = FinalGasket(name="thick", compressed_mm=thou(51), bore_mm=97.0)
    assert "not the one it was mocked up with" in keys(job(final_gasket=thick))["gasket"]


def test_lash_cam_and_shims_are_set_as_the_engine_will_run():
    card = replace(CARD, intake_lash_mm=thou(16), exhaust_lash_mm=thou(18))
    four = engine(intake=inclined(10.0), rocker_ratio=1.5)
    found = keys(job(engine=four, cam_card=card, changes=(change(CAM_MOVED, -2.0),)))
    assert "intake 16, exhaust 18 thou" in found["lash"]
    assert "108.0° ATDC" in found["cam-intake"]
    assert "shims-0" in keys(
        job(
            engine=barrels(),
            final_shims=supposed(job(engine=barrels()), WhatIf(changes=(change(SHIMS_CHANGED, 20),))).final_shims,
        )
    )


@pytest.mark.parametrize(
    ("left_out", "said"),
    [((), None), (((2, Side.EXHAUST),), "cylinder 2"), (((1, Side.INTAKE), (2, Side.EXHAUST)), "cylinders 1, 2")],
)
def test_the_cylinders_with_an_unread_valve_are_named(left_out, said):
    rows = [(cylinder, side) for cylinder in (1, 2) for side in Side if (cylinder, side) not in left_out]
    found = keys(job(clay=tuple(clay(115, *row) for row in rows)))
    assert ("unread" in found) == bool(left_out)
    if said:
        assert found["unread"].endswith(f"go in. {said}")


def test_the_last_things_that_are_forgotten_are_on_it():
    found = keys(job())
    for key, words in (
        ("sealant", "before torque"),
        ("washers", "each bolt length"),
        ("ports", "held against each other"),
        ("tappets", "never on checking springs"),
        ("springs", "on each bank they were on"),
    ):
        assert words in found[key]
    assert "plugs" not in found
    assert "clear of the dome" in keys(job(volumes=volumes(piston_cc=-8.0)))["plugs"]
