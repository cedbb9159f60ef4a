"""An engine with sizes not stated: asked for only where a figure needs them."""

from dataclasses import replace

import numpy as np
import pytest

from mockup.base.faults import FaultsError
from mockup.changes.train import ROCKERS_CHANGED
from mockup.checks.clearance import UPRIGHT
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.block import Engine, Layout
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import LashAt
from mockup.engine.valves import Place, Relief, Side, ValveRow
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.limits.judge import State
from mockup.motion.slider_crank import SliderCrank
from mockup.plans.levers import can_be_made
from mockup.quantity.value import Unit
from mockup.readings.sweep import SweepReading
from mockup.words.report_text import clay_advice, engine_line, report_text
from tests.making import CARD, clay, deck, job, mockup, thou, volumes
from tests.making import engine as said

BARE = Engine(cylinders=1)


def bare(**changes):
    return job(
        **{"engine": BARE, "final_gasket": FinalGasket(compressed_mm=thou(41)), "mockups": (mockup(),)}
        | {"deck": (deck(1, 4),), "clay": ()}
        | changes
    )


def check_of(made, kind=FACE_INTAKE_CHECK):
    return next(check for check in evaluate(made).checks if check.kind is kind)


def test_an_engine_of_which_only_the_cylinders_are_known_is_one():
    assert BARE.unstated == ("bore", "stroke", "rod length")
    assert BARE.swept_cc is None
    assert engine_line(BARE, Unit.INCH) == "single · two valves at an angle not stated, in reliefs"
    assert "most for a large bore" in clay_advice(BARE, Unit.INCH)
    assert engine_line(replace(BARE, bore_mm=100.0), Unit.MILLIMETRE).startswith("single · bore 100")


@pytest.mark.parametrize(
    "wrong",
    [
        {"bore_mm": 2.0},
        {"stroke_mm": 9000.0},
        {"stroke_mm": 300.0, "rod_length_mm": 100.0},
        {"rocker_ratio": 0.5},
        {"intake": ValveRow(angle_deg=80.0)},
        {"layout": Layout.VEE, "cylinders": 3},
    ],
)
def test_what_cannot_be_is_refused_all_the_same(wrong):
    with pytest.raises(FaultsError):
        replace(BARE, **wrong)


@pytest.mark.parametrize("stroke", [None, 20.0, 90.0, 400.0])
@pytest.mark.parametrize("rod", [None, 250.0, 800.0])
def test_what_stands_in_for_a_size_can_turn(stroke, rod):
    if stroke and rod and rod <= stroke / 2:
        return
    sizes = Engine(cylinders=1, stroke_mm=stroke, rod_length_mm=rod).sizes
    assert sizes.rod_length_mm > sizes.stroke_mm / 2
    assert (sizes.stroke_mm, sizes.rod_length_mm) == (stroke or sizes.stroke_mm, rod or sizes.rod_length_mm)


def test_clay_is_judged_without_a_single_dimension_of_the_engine():
    found = check_of(bare(clay=(clay(120),)))
    assert found.state is State.CLEAR
    # 36 mocked up, 41 will run: five more, upright, and what a lean of 20 degrees may take of it is in the U.
    assert found.figure.value == pytest.approx(thou(125))
    assert UPRIGHT in found.governing.cautions
    upright = check_of(bare(engine=replace(BARE, intake=ValveRow(angle_deg=0.0)), clay=(clay(120),)))
    more = found.figure.u**2 - upright.figure.u**2
    assert np.sqrt(more) == pytest.approx(thou(5) * (1 - np.cos(np.radians(20))) / np.sqrt(3))
    assert UPRIGHT not in upright.governing.cautions


@pytest.mark.parametrize("relief", list(Relief))
@pytest.mark.parametrize("angle", [0.0, 8.0, 15.0, 20.0])
def test_the_doubt_of_an_angle_nobody_said_holds_the_figure_of_any_usual_one(angle, relief):
    unsaid, true = (check_of_face(angle_deg, relief) for angle_deg in (None, angle))
    assert abs(unsaid.figure.value - true.figure.value) <= unsaid.figure.expanded


def check_of_face(angle_deg, relief):
    row = ValveRow(angle_deg=angle_deg, relief=relief)
    stood = (mockup(gasket_mm=thou(100)),)
    return check_of(bare(engine=replace(BARE, intake=row), mockups=stood, clay=(clay(120),)))


@pytest.mark.parametrize(("stroke", "rod"), [(60.0, 110.0), (75.0, 130.0), (98.0, 172.0), (115.0, 190.0)])
def test_a_sweep_needs_neither_stroke_nor_rod(stroke, rod):
    """The truth is drawn from a crank that the code under test is not told of."""
    crank = SliderCrank(stroke / 2, rod)
    t = np.array([-5.0, 0.0, 5.0, 10.0, 15.0, 20.0])
    fine = np.linspace(-10, 30, 4001)

    def clearance(t_deg):
        return 6.0 + crank.travel_mm(t_deg) - 4.9 * np.exp(-(((t_deg - 12.0) / 60.0) ** 2)) - 0.008 * t_deg

    readings = tuple(
        SweepReading(key=f"s{at:g}", mockup="A", place=Place(1, Side.INTAKE), crank_deg=at, clearance_mm=one)
        for at, one in zip(t.tolist(), clearance(t).tolist(), strict=True)
    )
    stood = {"mockups": (mockup(gasket_mm=thou(41)),), "sweeps": readings}
    unsaid = check_of(bare(**stood))
    told = check_of(bare(engine=replace(BARE, stroke_mm=stroke, rod_length_mm=rod), **stood))
    assert abs(unsaid.figure.value - clearance(fine).min()) <= unsaid.figure.expanded
    # The readings carry it: what is not known of the crank costs less than half a thou more of U.
    assert unsaid.figure.expanded <= told.figure.expanded + thou(0.5)
    assert any("Not stated: stroke and rod length" in said for said in unsaid.governing.cautions)


@pytest.mark.parametrize(
    ("engine", "gasket", "missing"),
    [
        (BARE, FinalGasket(compressed_mm=1.0), ("bore", "stroke")),
        (replace(BARE, bore_mm=90.0), FinalGasket(compressed_mm=1.0, bore_mm=91.0), ("stroke",)),
        (replace(BARE, stroke_mm=90.0), None, ("bore",)),
    ],
)
def test_a_ratio_names_what_it_lacks(engine, gasket, missing):
    found = check_of(bare(engine=engine, final_gasket=gasket), RATIO_CHECK)
    assert found.figure is None
    assert [part for part in found.missing.split(", ") if part.endswith("not stated")] == [
        f"{m} not stated" for m in missing
    ]


def test_lash_at_the_pushrod_is_never_credited_where_the_ratio_is_not_said():
    stood = mockup(gasket_mm=thou(41), lash_mm=thou(10), lash_at=LashAt.PUSHROD)
    unsaid, told = (
        check_of(bare(engine=replace(BARE, rocker_ratio=ratio), mockups=(stood,), clay=(clay(120),)))
        for ratio in (None, 1.5)
    )
    assert unsaid.figure.value == pytest.approx(thou(100))
    assert told.figure.value == pytest.approx(thou(105))


def test_a_card_estimates_nothing_at_the_valve_without_a_ratio():
    report = evaluate(bare(cam_card=CARD, clay=(clay(120),)))
    assert not report.context.cams
    assert report.cam.sides, "its own centrelines are known all the same"
    assert any("ratio is not stated" in question.text for question in report.questions)


def test_a_bare_engine_reads_back_from_its_file_and_says_its_report():
    made = bare(clay=(clay(120),))
    assert read_job(write_job(made)) == made
    assert "an angle not stated" in report_text(evaluate(made))


def test_no_other_rockers_while_the_ratio_is_not_said():
    assert not can_be_made(ROCKERS_CHANGED, bare())
    assert can_be_made(ROCKERS_CHANGED, bare(engine=said()))


@pytest.mark.parametrize(("relief", "span"), [(Relief.PARALLEL, (0.9397, 1.0)), (Relief.FLAT, (1.0, 1.0642))])
def test_what_a_gasket_may_count_where_the_angle_is_not_said_lies_on_the_side_of_its_relief(relief, span):
    # cos 20 and 1 / cos 20: plane geometry.
    assert ValveRow(relief=relief).axial_factor_span == pytest.approx(span, abs=1e-4)
    assert len(set(ValveRow(relief=relief, angle_deg=12.0).axial_factor_span)) == 1


def test_a_gasket_bore_that_is_not_stated_is_the_cylinders_and_an_allowance_in_u():
    known = {"deck": (deck(1, 5),), "volumes": volumes()}
    engine = replace(BARE, bore_mm=95.25, stroke_mm=98.4)

    def ratio(bore_mm):
        gasket = FinalGasket(compressed_mm=1.0, bore_mm=bore_mm)
        return check_of(bare(engine=engine, final_gasket=gasket, **known), RATIO_CHECK)

    unsaid, wider = ratio(None), ratio(96.25)
    assert unsaid.figure.value == pytest.approx(wider.figure.value)
    # Any bore from the cylinder's to 2 mm more is inside its U.
    for bore in (95.25, 97.25):
        assert abs(ratio(bore).figure.value - unsaid.figure.value) <= unsaid.figure.expanded
    assert unsaid.figure.u > wider.figure.u
    assert any("gasket’s bore is not stated" in said for said in unsaid.governing.cautions)
    barrels = replace(engine, separate_barrels=True)
    bare_metal = check_of(bare(engine=barrels, final_gasket=FinalGasket(compressed_mm=0.0), **known), RATIO_CHECK)
    assert not any("gasket’s bore" in said for said in bare_metal.governing.cautions)
