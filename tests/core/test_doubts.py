"""What U is made of, how well things are known, and what a mock-up states."""

from dataclasses import replace

import pytest

from mockup.checks.check import Trust
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.methods import differences
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import PistonsIn, Springs
from mockup.evaluate import evaluate
from mockup.limits.judge import Limit, margin
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.quantity.corrections import Part, UncertaintySource
from mockup.quantity.pasted import parse_pasted
from mockup.quantity.value import Unit, Value, rectangular
from mockup.readings.tdc import TdcReading
from mockup.words.uncertainty import halved_by, made_of
from tests.making import (
    CARD,
    barrels,
    clay,
    cut,
    deck,
    edges,
    engine,
    job,
    job_with_clay,
    mockup,
    thou,
    volumes,
    with_readings,
)
from tests.making_readings import intake, sweep, trial

ACROSS = READY_MADE["street"]
NO_LIMITS = READY_MADE["makers"]


# --- loaded, reversed, known to --------------------------------------------------------------------------------------


def test_checking_springs_that_read_less_than_running_springs_are_the_trains_bend_and_no_fault():
    both = (mockup(), mockup(key="B", springs=Springs.RUNNING))
    read = (clay(95), clay(130, mockup="B", key="b"))
    loaded = replace(ACROSS, judged_loaded=True)
    check = intake(job_with_clay(*reversed(read), mockups=both, limits=loaded))
    assert check.governing.trust is Trust.LOADED
    ((_, more, why),) = list(differences(check))
    assert more < 0
    assert "bends under the running springs" in why


def test_reversed_pistons_are_asked_about_and_only_a_slip_is_no_proof():
    wrong = mockup(pistons=PistonsIn.REVERSED)
    slip = evaluate(job(mockups=(wrong,)))
    assert any("Will it run so?" in question.text for question in slip.questions)
    assert intake(job(mockups=(wrong,))).governing.trust is Trust.OPTIMISTIC
    chosen = engine(pistons_reversed=True, pin_offset_mm=1.0)
    runs_so = job(engine=chosen, mockups=(wrong,))
    assert not any("Will it run so?" in question.text for question in evaluate(runs_so).questions)
    assert intake(runs_so).governing.trust is Trust.SOUND
    # The other way about: the engine is to run them so, and they stood the right way round.
    stood = job(engine=chosen, mockups=(mockup(pistons=PistonsIn.RIGHT),))
    assert intake(stood).governing.trust is Trust.OPTIMISTIC


def test_what_is_known_better_than_usual_makes_the_ratio_surer():
    usual = evaluate(job()).of_kind(RATIO_CHECK)[0].figure
    plain = engine()
    known = replace(plain, bore_known_to_mm=0.005, stroke_known_to_mm=0.005)
    surer = evaluate(job(engine=known)).of_kind(RATIO_CHECK)[0].figure
    assert surer.value == usual.value
    assert surer.u < usual.u
    told = [replace(one, known_to_cc=0.05) for one in volumes()]
    assert evaluate(job(engine=known, volumes=tuple(told))).of_kind(RATIO_CHECK)[0].figure.u < surer.u


def test_a_gasket_is_as_sure_as_it_is_said_to_be():
    plain = intake(job()).figure.u
    measured = FinalGasket(compressed_mm=thou(36), bore_mm=97.0, known_to_mm=0.005)
    assert measured.thickness.u == pytest.approx(rectangular(0.005))
    assert intake(job(final_gasket=measured)).figure.u < plain


def test_separate_barrels_may_run_metal_to_metal():
    none = FinalGasket(compressed_mm=0.0, bore_mm=97.0)
    quench = evaluate(job(engine=barrels(), final_gasket=none)).of_kind(QUENCH_CHECK)[0]
    assert quench.figure.value == pytest.approx(thou(4))


# --- smaller ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("value", "left"), [(1.0, 0.2), (0.7, -0.1), (1.25, -0.05), (0.8, 0.0), (1.2, 0.0)])
def test_a_windows_margin_is_to_the_nearer_limit_and_negative_outside(value, left):
    assert margin(Value(value), Limit(0.8, 1.2)) == pytest.approx(left, abs=1e-12)


def test_a_number_with_an_exponent_is_no_heading():
    pasted = parse_pasted("-90 5E-04\n-45 1.2e-1\n0 0.3\n45 0.12\n90 0.0005", Unit.INCH)
    assert pasted.lifts_mm[0] == pytest.approx(0.0127)
    assert len(pasted.lifts_mm) == 5


def test_the_parts_of_u_are_named_largest_first_and_with_what_would_halve_it():
    parts = (
        Part(UncertaintySource.GASKET, thou(1.0)),
        Part(UncertaintySource.REPEATABILITY, thou(1.5)),
        Part(UncertaintySource.CLAY, thou(0.5)),
    )
    whole = Value(thou(90), thou(3.5**0.5))
    said = made_of(sorted(parts, key=lambda part: -part.u), whole, FACE_INTAKE_CHECK, Unit.INCH)
    assert said == "U 4: repeatability 3, gasket 2, soft clay 1"
    assert halved_by([Part(UncertaintySource.REPEATABILITY, 1.0)]) == "about 4 times the readings"
    assert halved_by([Part(UncertaintySource.GASKET, 1.0), Part(UncertaintySource.REPEATABILITY, 0.4)]) == (
        "the gaskets’ thickness measured, compressed"
    )


def test_the_parts_of_every_figure_add_up_to_its_u():
    made = job(engine=Engine(cylinders=2, bore_mm=95.25, stroke_mm=98.425, rod_length_mm=172.72, rocker_ratio=1.5))
    swept = tuple(sweep(angle, down) for angle, down in ((0, 95.5), (5, 85.5), (10, 92), (15, 116), (20, 155)))
    for report in (evaluate(made), evaluate(replace(with_readings(made, sweeps=swept), cam_card=CARD))):
        checked = [check for check in report.checks if check.figure and check.governing.parts]
        assert len(checked) > 5
        for check in checked:
            parts = sum(part.u**2 for part in check.governing.parts) ** 0.5
            assert parts == pytest.approx(check.figure.u, rel=0.02), check.label


@pytest.mark.parametrize(
    ("errors", "asked"), [((1.0, 1.2), False), ((-1.4, 1.5), False), ((-2.0, 1.5), True), ((4.0, 4.5), False)]
)
def test_tdc_readings_are_asked_about_where_they_lie_apart_and_not_where_the_wheel_is_far_off(errors, asked):
    pairs = tuple(
        TdcReading(key=f"t{at}", before_deg=30.0 - error, after_deg=30.0 + error) for at, error in enumerate(errors)
    )
    found = [one for one in evaluate(job(tdc=pairs)).questions if "TDC readings" in one.text]
    assert bool(found) is asked
    assert all(one.evidence == "t1" for one in found)


@pytest.mark.parametrize(("down", "asked"), [(5, False), (9, True)])
def test_edges_whose_middle_is_not_the_centre_are_asked_about(down, asked):
    # Both edges at rest are the mean of pushed and risen: their own middle is what the centre should be.
    read = (deck(1, 5), *edges(1, down + 3, down - 3, down - 3, down + 3), deck(2, 5))
    found = [one for one in evaluate(job(deck=read)).questions if "edges" in one.text.lower()]
    assert bool(found) is asked


def asked_of(words, **changes):
    return [(one.text, one.evidence) for one in evaluate(job(**changes)).questions if words in one.text]


@pytest.mark.parametrize(
    ("read", "asked"), [((126, 128, 129, 145), "145"), ((126, 128, 129, 141), ""), ((126, 145), "")]
)
def test_a_slice_far_from_all_others_is_asked_about(read, asked):
    slices = tuple(replace(clay(t), key=f"k{t}") for t in read)
    found = asked_of("is far off", clay=slices)
    assert [key for _, key in found] == ([f"k{asked}"] if asked else [])
    assert not asked or "145 among 126, 128, 129 thou" in found[0][0]


@pytest.mark.parametrize(
    ("thou_", "near", "much"), [(15, 1, 0), (20, 1, 0), (21, 0, 0), (0, 0, 0), (349, 0, 0), (351, 0, 1)]
)
def test_clay_next_to_nothing_and_a_great_deal_of_it_are_asked_about(thou_, near, much):
    read = {"clay": (clay(thou_),)}
    assert (len(asked_of("almost nothing", **read)), len(asked_of("is a lot", **read))) == (near, much)


@pytest.mark.parametrize(("ratio", "pushrods", "asked"), [(1.0, 1, 1), (1.5, 1, 0), (1.0, 0, 0)])
def test_a_ratio_of_one_with_pushrods_is_asked_about(ratio, pushrods, asked):
    found = asked_of("with pushrods", engine=engine(rocker_ratio=ratio), pushrods=(trial(),) * pushrods)
    assert len(found) == asked


@pytest.mark.parametrize(("turns", "asked"), [(11.5, 0), (19.0, 0), (21.0, 1)])
def test_a_checking_pushrod_screwed_far_out_is_asked_about(turns, asked):
    assert len(asked_of("longer than closed", pushrods=(trial(turns),))) == asked


def test_a_deck_cut_decided_by_few_of_its_crowns_is_asked_about():
    four = {"engine": engine(cylinders=4), "clay": ()}
    planned = cut(5, order=None)
    (one,) = asked_of("crowns it affects", **four, deck=(deck(1, 12),), changes=(planned,))
    assert "1 of the 4 crowns" in one[0]
    every = tuple(deck(c, 12) for c in (1, 2, 3, 4))
    assert asked_of("crowns it affects", **four, deck=every, changes=(planned,)) == []
    assert asked_of("crowns it affects", **four, deck=(deck(1, 12),), changes=(cut(5),)) == []


@pytest.mark.parametrize(("intake", "exhaust", "asked"), [(100, 80, 1), (80, 100, 0), (90, 90, 0)])
def test_limits_entered_the_other_way_round_are_asked_about(intake, exhaust, asked):
    edits = {FACE_INTAKE_LIMIT: Edit(thou(intake)), FACE_EXHAUST_LIMIT: Edit(thou(exhaust))}
    assert len(asked_of("other way round", limits=READY_MADE["street"].edited(edits))) == asked
