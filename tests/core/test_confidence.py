"""No figure claims more than was read: contact, bounds, what-ifs, estimates."""

from dataclasses import replace

import pytest

from mockup.advice.outlook import outlook, verdict_text, would_be
from mockup.base.faults import FaultsError
from mockup.changes.cuts import HEAD_CUT
from mockup.changes.stack import SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED
from mockup.checks.check import Trust
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valve_limits import FACE_INTAKE_LIMIT, RADIAL_LIMIT
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK, RADIAL_CHECK
from mockup.engine.gasket import BaseShims, FinalGasket, GasketState
from mockup.engine.mockup import Lifters
from mockup.engine.valves import Relief, Side
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, State
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.plans.deck_chart import deck_chart
from mockup.plans.what_if import WhatIf, done, supposed
from mockup.readings.clay import Gap
from tests.making import CARD, barrels, change, clay, deck, engine, inclined, job, job_with_clay, mockup, thou
from tests.making_jobs import SHIMS
from tests.making_readings import degree, intake, sweep, table

ACROSS = READY_MADE["street"]
NO_LIMITS = READY_MADE["makers"]


# --- contact ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("limits", [ACROSS, NO_LIMITS], ids=["with a minimum", "without"])
@pytest.mark.parametrize("gap", list(Gap))
def test_clay_squeezed_to_nothing_is_short_on_every_sheet_and_warns(limits, gap):
    kind = RADIAL_CHECK if gap is Gap.RADIAL else FACE_INTAKE_CHECK
    made = job_with_clay(clay(0, gap=gap), clay(95), limits=limits) if gap is Gap.RADIAL else job_with_clay(clay(0))
    (check,) = [one for one in evaluate(replace(made, limits=limits)).of_kind(kind) if one.governing]
    assert check.state is State.SHORT
    assert any("metal on metal" in caution for caution in check.governing.cautions)


def test_an_indicator_that_reads_nothing_is_contact_and_only_bounds_the_rest():
    read = [sweep(angle, down) for angle, down in ((0, 40), (5, 0), (10, 0), (15, 30))]
    check = intake(job(clay=(), sweeps=tuple(read), limits=NO_LIMITS))
    assert check.state is State.SHORT
    assert check.governing.bound is Bound.AT_MOST


def test_contact_without_a_gasket_is_not_contact_with_one_and_must_be_read_again():
    # Mocked up metal to metal and touching; 36 thou of gasket parts them for sure, how far nobody has read.
    bare = mockup(gasket_state=GasketState.NONE, gasket_mm=0.0)
    check = intake(job_with_clay(clay(0), mockups=(bare,), limits=NO_LIMITS))
    assert check.state is not State.SHORT
    assert check.governing.bound is Bound.AT_MOST
    assert any("Read it again" in caution for caution in check.governing.cautions)
    judged = intake(job_with_clay(clay(0), mockups=(bare,)))  # a street sheet wants 80
    assert judged.state is State.SHORT


def test_a_sheet_without_an_edge_minimum_asks_for_the_makers():
    questions = [one.text for one in evaluate(job_with_clay(clay(40, gap=Gap.RADIAL), limits=NO_LIMITS)).questions]
    assert any("edge" in text and "maker" in text for text in questions)


def test_an_edge_is_not_required_on_a_flat_crown():
    limited = ACROSS.edited({RADIAL_LIMIT: Edit(thou(50))})
    flat = engine(intake=inclined(0.0, Relief.FLAT), exhaust=inclined(0.0, Relief.FLAT))
    assert evaluate(job(engine=flat, limits=limited)).of_kind(RADIAL_CHECK) == ()
    assert all(check.required for check in evaluate(job(limits=limited)).of_kind(RADIAL_CHECK))


# --- clay that was not touched ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("flattering", [{"lifters": Lifters.UNBLOCKED}, {"two_turns": False}])
def test_clay_not_touched_in_a_flattering_mock_up_bounds_nothing(flattering):
    over = clay(50, touched=False)
    check = intake(job_with_clay(over, mockups=(mockup(**flattering),)))
    assert check.figure is None
    assert check.state is State.NOT_MEASURED
    assert any("so that proves nothing" in caution for caution in check.governing.cautions)
    honest = intake(job_with_clay(over))
    assert honest.governing.bound is Bound.AT_LEAST


# --- other rockers and another cam in the mock-up --------------------------------------------------------------------


def test_other_rockers_are_a_rung_where_the_lobe_is_known_and_no_proof_where_not():
    less = mockup(rocker_ratio=1.4)
    five = tuple(sweep(angle, down) for angle, down in ((0, 95.5), (5, 85.5), (10, 92), (15, 116), (20, 155)))
    rocked = engine(rocker_ratio=1.5)
    blind = intake(job(engine=rocked, clay=(), sweeps=five, mockups=(less,)))
    assert blind.governing.trust is Trust.OPTIMISTIC
    known = job(engine=rocked, clay=(), sweeps=five, mockups=(less,), cam_card=CARD, lobe_tables=(table(),))
    found = intake(known)
    assert found.governing.trust is Trust.SOUND
    (correction,) = [one for one in found.governing.corrections if "rockers 1.5" in one.text]
    # A tenth more of ratio takes a tenth of the lobe's lift where they come nearest.
    assert -0.1 * table().lifts_mm[26] < correction.delta.value < 0
    assert found.figure.value == pytest.approx(blind.figure.value + correction.delta.value, abs=thou(6))


# --- base shims ------------------------------------------------------------------------------------------------------


def shimmed(*final):
    """Two barrels read on 0.50 mm of shims, deck and clay."""
    read = (deck(1, -5, shims_mm=0.5), deck(2, -5, shims_mm=0.5))
    return job(engine=barrels(), deck=read, mockups=(mockup(shims_mm=0.5),), final_shims=final)


MORE = WhatIf(changes=(change(SHIMS_CHANGED, 0, front_mm=0.25, rear_mm=0.25),))


@pytest.mark.parametrize(
    "final", [(), (BaseShims(total_mm=0.5, cylinder=1),)], ids=["nothing chosen", "chosen for one barrel"]
)
def test_more_shims_start_from_those_the_barrels_were_read_on(final):
    before, after = evaluate(shimmed(*final)), evaluate(supposed(shimmed(*final), MORE))
    for kind in (QUENCH_CHECK, FACE_INTAKE_CHECK):
        for was, then in zip(before.of_kind(kind), after.of_kind(kind), strict=True):
            assert then.figure.value - was.figure.value == pytest.approx(0.25, abs=1e-6), (kind, was.cylinder)
    for was, then in zip(before.of_kind(RATIO_CHECK), after.of_kind(RATIO_CHECK), strict=True):
        assert then.figure.value < was.figure.value
    # Marked done, each barrel runs on what it was read on and the quarter millimetre.
    stacks = done(shimmed(*final), MORE.changes[0]).final_shims
    assert {stack.total_mm for stack in stacks} == {0.75}


def test_the_valve_column_of_the_deck_chart_is_evaluates_own_for_each_barrel():
    decks = tuple(replace(deck(at + 1, 0), clearance_mm=mm) for at, mm in enumerate((-0.60, -0.64)))
    read = (clay(90, 1), clay(78, 2), clay(110, 1, Side.EXHAUST), clay(104, 2, Side.EXHAUST))
    made = job(
        engine=barrels(),
        deck=decks,
        clay=read,
        final_gasket=FinalGasket(compressed_mm=1.15, bore_mm=97.0),
        limits=READY_MADE["street"].edited({QUENCH_LOW_LIMIT: Edit(0.1), QUENCH_HIGH_LIMIT: Edit(5.0)}),
    )
    rows = {row.cylinders: row for row in deck_chart(evaluate(made), SHIMS, (9.0,)) if row.cylinders}
    for cylinder in (1, 2):
        (cell,) = rows[cylinder,].cells
        stacked = evaluate(replace(made, final_shims=(BaseShims(total_mm=sum(cell.shims_mm)),)))
        own = [
            check.margin
            for kind in (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK)
            for check in stacked.of_kind(kind)
            if check.cylinder == cylinder
        ]
        assert cell.valve_margin_mm == pytest.approx(min(own), abs=1e-9)


# --- a drop, a card, turning by hand ---------------------------------------------------------------------------------

DROP = sweep(0, 190, drop=True, key="drop")
DEGREED = (degree(Side.INTAKE, 70.0, 146.0),)


def test_a_drop_and_a_measured_degreed_lobe_are_a_figure_and_a_card_an_estimate():
    nothing = intake(job(clay=(), sweeps=(DROP,)))
    assert nothing.figure is None
    measured = intake(job(clay=(), sweeps=(DROP,), cam_card=CARD, lobe_tables=(table(),), degrees=DEGREED))
    assert measured.figure is not None
    assert measured.governing.trust is Trust.SOUND
    assert measured.state is not State.NOT_MEASURED
    carded = intake(job(clay=(), sweeps=(replace(DROP, clearance_mm=thou(400)),), cam_card=CARD))
    assert carded.governing.bound is Bound.ABOUT
    assert carded.governing.trust is Trust.ESTIMATE
    # As much room as there may be, and still no proof; too little is short all the same.
    assert carded.state is State.NOT_MEASURED
    assert carded.figure.value - carded.figure.expanded > carded.limit.low
    assert intake(job(clay=(), sweeps=(replace(DROP, clearance_mm=thou(40)),), cam_card=CARD)).state is State.SHORT


def test_the_smallest_found_by_turning_can_be_short_and_clear_only_with_what_the_angle_may_have_missed():
    def turned(down):
        return intake(job(clay=(), sweeps=(sweep(0, down, by_turning=True, key="t"),)))

    assert turned(60).state is State.SHORT
    assert turned(81).state is State.CLOSE  # a street sheet wants 80
    assert turned(100).state is State.CLEAR
    assert turned(100).figure.value < thou(100)
    assert turned(100).figure.expanded >= thou(1)
    with pytest.raises(FaultsError, match="both valves shut"):
        sweep(0, 60, by_turning=True, drop=True)


def test_one_reading_far_away_is_clear_with_the_wide_u_of_not_knowing_the_rest():
    # 430 thou ten degrees after TDC, no lobe: a minimum of 100 is far, one of 400 cannot be had of it.
    check = intake(job(clay=(), sweeps=(sweep(10, 430),)))
    assert check.state is State.CLEAR
    strict = ACROSS.edited({FACE_INTAKE_LIMIT: Edit(thou(415))})
    assert intake(job(clay=(), sweeps=(sweep(10, 430),), limits=strict)).state is State.CLOSE


# --- what-ifs and verdicts -------------------------------------------------------------------------------------------


def test_a_what_if_with_nothing_measured_says_so_and_never_clear():
    bare = job(clay=(), deck=(), volumes=())
    report = evaluate(supposed(bare, WhatIf(changes=(change(HEAD_CUT, 5),))))
    words = would_be(outlook(report, evaluate(bare)))
    assert words.startswith("None of ")
    assert "not read" in words


def test_what_was_read_and_proves_nothing_is_neither_clear_nor_unread():
    flattering = (mockup(lifters=Lifters.UNBLOCKED),)
    made = job(mockups=flattering)
    assert "read without proof: " in verdict_text(evaluate(made))
    after = evaluate(supposed(made, WhatIf(changes=(change(HEAD_CUT, 2),))))
    assert "without a figure then" not in would_be(outlook(after, evaluate(made)))


def test_a_figure_that_a_what_if_loses_is_named():
    plain = job(cam_card=None)
    after = evaluate(supposed(plain, WhatIf(changes=(change(CAM_MOVED, 4),))))
    words = would_be(outlook(after, evaluate(plain)))
    assert "without a figure then" in words
    assert "would be clear" not in words or words.startswith(("2 of", "3 of", "4 of", "5 of", "6 of"))


def test_a_verdict_counts_of_how_many_and_names_what_it_does_not_know():
    assert verdict_text(evaluate(job())).startswith("Every required check is clear: ")
    half = verdict_text(evaluate(job_with_clay(clay(95))))
    assert half.startswith("Unfinished: ")
    assert " of " in half
    assert "Not known: not read: " in half
    none = verdict_text(evaluate(job(limits=NO_LIMITS)))
    assert "no minimum set for" in none


# --- lash left in -----------------------------------------------------------------------------------------------------

GIVEN = ((-15, 2.447), (-10, 2.067), (-5, 1.896), (0, 1.934), (5, 2.110))


@pytest.mark.parametrize("explains", [True, False], ids=["a lobe that explains them", "a lobe that does not"])
def test_readings_with_lash_left_in_are_a_figure_near_the_truth_or_a_question(explains):
    # Readings of an independent check, 0.35 mm of lash left in: the truth of that engine was 1.535 mm, and a fit that
    # had not settled made 1.04 of it. Its lobe is not told; this one has the readings on its curve to 0.01 mm.
    half, centre = (144.2, -125.0) if explains else (115.0, -108.0)
    angles = tuple(float(angle) for angle in range(-150, 151, 5))
    lifts = tuple(10.0 * max(1 - abs(angle / half) ** 2.2, 0.0) ** 3 for angle in angles)
    lobe = table(side=Side.EXHAUST, angles_deg=angles, lifts_mm=lifts)
    at = half * (1 - (thou(200) / 10.0) ** (1 / 3)) ** (1 / 2.2)
    read = tuple(sweep(angle, mm / thou(1), Side.EXHAUST) for angle, mm in GIVEN)
    made = job(
        engine=engine(stroke_mm=70.0, rod_length_mm=122.5, rocker_ratio=1.5),
        clay=(),
        sweeps=read,
        mockups=(mockup(lash_mm=0.35),),
        cam_card=CARD,
        lobe_tables=(lobe,),
        degrees=(degree(Side.EXHAUST, centre - at, centre + at),),
    )
    report = evaluate(made)
    check = next(c for c in report.of_kind(FACE_EXHAUST_CHECK) if c.cylinder == 1)
    if explains:
        assert abs(check.figure.value - 1.535) <= check.figure.expanded
        assert check.figure.expanded < 0.12
    else:
        assert check.figure is None
        assert any("no curve explains" in question.text for question in report.questions)
