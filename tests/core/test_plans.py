"""Plans: cuts to a target, gaskets and shims by quench, the deck chart, a ratio."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mockup.checks.compression import RATIO_CHECK, RATIO_HIGH_LIMIT
from mockup.checks.head_clay import CROWN_CHECK
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.makers_chart import MakersChart, MakersRow
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.plans.cuts import cut_plans
from mockup.plans.deck_chart import NoStack, deck_chart
from mockup.plans.gaskets import gasket_options, suits
from mockup.plans.ratio_solver import Unknown, ratio_from_intake_closing, solve_ratio
from mockup.plans.shim_stacks import ShimKind, alike_under_all, parse_shims, stacks_of
from mockup.plans.what_if import done, effects
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from mockup.readings.deck import CrownSpot, DeckReading
from mockup.readings.volumes import VolumePart, VolumeReading
from tests.making import barrels, cut, deck, edges, engine, job, thou, with_readings
from tests.making_jobs import SHIMS

QUENCH = {QUENCH_LOW_LIMIT: Edit(0.85), QUENCH_HIGH_LIMIT: Edit(1.25)}


WIDE = READY_MADE["street"].edited({QUENCH_LOW_LIMIT: Edit(0.1), QUENCH_HIGH_LIMIT: Edit(5.0)})


def twin(*decks, **changes):
    """Two separate barrels, read without shims, with a metric window."""
    limits = READY_MADE["makers"].edited(QUENCH | changes.pop("edits", {}))
    plain = {
        "engine": barrels(),
        "limits": limits,
        "final_gasket": FinalGasket(compressed_mm=1.15, bore_mm=97.0),
        "final_shims": (),
    }
    readings = tuple(replace(deck(at + 1, 0), clearance_mm=mm) for at, mm in enumerate(decks))
    return job(deck=readings, **(plain | changes))


def test_the_trades_example_shows_both_cuts():
    # 11 and 12 thou in the middle, 9 and 10 at the rocked edges: by the middle 11.5, by the edge 9 (10 was chosen
    # there instead of 11). Common practice, no source.
    rocked = [deck(c, down, spot=CrownSpot.THRUST) for c, down in ((1, 9), (2, 10))]
    report = evaluate(job(deck=(deck(1, 11), deck(2, 12), *rocked)))
    plans = {plan.words: plan for plan in cut_plans(report, 0, 0.0)}
    assert plans["all round, by the middle"].front_mm == pytest.approx(thou(11.5))
    assert plans["all round, by the highest edge"].front_mm == pytest.approx(thou(9))
    assert min(plans["all round, by the highest edge"].edge_mm.values()) == pytest.approx(0.0)


def test_a_squared_cut_leaves_a_straight_deck_level():
    four = engine(cylinders=4)
    report = evaluate(job(engine=four, deck=tuple(deck(c, 8 + 2 * c) for c in four.cylinder_numbers)))
    squared = next(plan for plan in cut_plans(report, 0, thou(5)) if plan.words == "squared, by the middle")
    assert (squared.front_mm, squared.rear_mm) == pytest.approx((thou(5), thou(11)))
    assert list(squared.leaves_mm.values()) == pytest.approx([thou(5)] * 4)


def test_a_target_already_passed_is_refused_and_a_cut_is_never_rounded_up():
    report = evaluate(job(deck=(deck(1, 5.3), deck(2, 5.3))))
    assert "metal added" in cut_plans(report, 0, thou(9))[0].refused
    assert "already" in cut_plans(report, 0, thou(5))[0].refused
    assert cut_plans(report, 0, 0.0)[0].front_mm == pytest.approx(thou(5))
    assert cut_plans(evaluate(job(deck=())), 0, 0.0) == ()


def test_every_plan_does_what_it_says_once_it_is_done():
    report = evaluate(job(deck=(deck(1, 12), deck(2, 15), *edges(1, 16, 9, 9, 16))))
    for plan in cut_plans(report, 0, thou(2)):
        after = evaluate(done(report.job, plan.change()))
        for cylinder, left in plan.leaves_mm.items():
            assert after.deck[cylinder].clearance.value == pytest.approx(left)


def test_what_a_cut_would_do_is_shown_on_every_kind_of_check_before_it_is_cut():
    report = evaluate(job(deck=(deck(1, 12), deck(2, 12))))
    changed = {effect.kind: effect for effect in effects(report, done(report.job, cut(8, order=None)))}
    quench, face, ratio = (changed[kind] for kind in (QUENCH_CHECK, FACE_INTAKE_CHECK, RATIO_CHECK))
    assert quench.after.figure.value == pytest.approx(quench.before.figure.value - thou(8))
    assert face.after.figure.value == pytest.approx(face.before.figure.value - thou(8))
    assert ratio.after.figure.value > ratio.before.figure.value


def test_a_decided_cut_that_is_done_is_not_done_twice():
    planned = cut(8, order=None)
    changed = done(job(changes=(planned,)), planned)
    assert [(change.key, change.order) for change in changed.changes] == [("cut", 1)]


# --- shims -----------------------------------------------------------------------------------------------------------


def test_stacks_hold_to_the_stock_and_the_fewest_shims_come_first():
    stacks = stacks_of((ShimKind(0.1, 2), ShimKind(0.2, 1)), most=3)
    assert (stacks.counts <= [2, 1]).all()
    assert stacks.words(0) == ()
    equal = [stacks.words(at) for at in np.flatnonzero(np.isclose(stacks.totals_mm, 0.2))]
    assert equal == [(0.2,), (0.1, 0.1)]


def test_six_shims_of_five_thicknesses_make_462_stacks():
    # Closed form: multisets of up to 6 of 5 kinds, C(11, 5).
    assert len(stacks_of([ShimKind(t, 99) for t in (0.1, 0.15, 0.25, 0.4, 0.5)]).totals_mm) == 462


def test_shims_under_every_barrel_move_alike_only_as_the_stock_allows_for_each():
    stacks = stacks_of((ShimKind(0.2, 2), ShimKind(0.5, 1)))  # 0, 0.2, 0.4, 0.5, 0.7 and 0.9 can be made
    assert alike_under_all(stacks, [0.5]) == pytest.approx((-0.1, 0.2, -0.3, 0.4, -0.5))
    assert alike_under_all(stacks, [0.5, 0.2]) == pytest.approx((0.2,))  # to 0.7 and 0.4: nothing else suits both
    assert alike_under_all(stacks_of(()), [0.5, 0.5]) == (-0.5,)  # an empty shelf: all of them out
    assert alike_under_all(stacks, ()) == ()


@settings(max_examples=60)
@given(
    st.lists(st.tuples(st.integers(1, 8), st.integers(1, 3)), max_size=3, unique_by=lambda kind: kind[0]),
    st.lists(st.integers(0, 20), min_size=1, max_size=3),
)
def test_what_moves_every_barrel_alike_is_what_trying_everything_finds(kinds, now):
    # Independent method: all ways to take shims from the stock, in whole tenths, barrel by barrel.
    counts = product(*(range(stock + 1) for _, stock in kinds))
    made = {sum(n * t for n, (t, _) in zip(row, kinds, strict=True)) for row in counts if sum(row) <= 6}
    wanted = sorted(more for more in range(-20, 60) if more and all(under + more in made for under in now))
    stacks = stacks_of([ShimKind(t / 10, stock) for t, stock in kinds])
    found = alike_under_all(stacks, [under / 10 for under in now])
    assert sorted(round(more * 10) for more in found) == wanted
    assert [abs(more) for more in found] == sorted(abs(more) for more in found)


# --- gaskets ---------------------------------------------------------------------------------------------------------


def test_the_gasket_nearest_the_windows_middle_comes_first_and_says_whether_it_fits():
    report = evaluate(job())
    thin, right, thick = (FinalGasket(compressed_mm=thou(t), bore_mm=97.0) for t in (27, 36, 51))
    options = gasket_options(report, [thick, thin, right])
    assert [option.gasket for option in options] == [right, thin, thick]
    assert [option.fits for option in options] == [True, False, False]
    assert options[0].quench_mm == pytest.approx([thou(40), thou(41)])
    assert options[0].ratio == pytest.approx([c.figure.value for c in report.of_kind(RATIO_CHECK)])


def test_only_gaskets_of_about_the_bore_suit():
    assert [suits(FinalGasket(compressed_mm=1.0, bore_mm=b), engine()) for b in (90, 95.25, 97, 104)] == [
        False, True, True, False,
    ]  # fmt: skip


def test_each_barrel_gets_its_own_stack_and_never_more_than_the_stock_holds():
    report = evaluate(twin(-0.60, -0.75))
    (option,) = gasket_options(report, [report.job.final_gasket], SHIMS)
    assert option.fits
    quench = [d + sum(s) + 1.15 for d, s in zip((-0.60, -0.75), option.shims_mm, strict=True)]
    assert quench == pytest.approx(option.quench_mm)
    scarce = (ShimKind(0.5, 1),)
    (short,) = gasket_options(report, [report.job.final_gasket], scarce)
    assert sorted(len(stack) for stack in short.shims_mm) == [0, 1]
    assert not short.fits


def test_a_gasket_that_would_exceed_the_ratio_gets_thicker_shims_or_none():
    report = evaluate(twin(-0.6, -0.6, edits={RATIO_HIGH_LIMIT: Edit(9.6)}))
    (option,) = gasket_options(report, [report.job.final_gasket], SHIMS)
    assert max(option.ratio) <= 9.6
    hopeless = evaluate(twin(-0.6, -0.6, edits={RATIO_HIGH_LIMIT: Edit(3.0)}))
    (none,) = gasket_options(hopeless, [report.job.final_gasket], SHIMS)
    assert none.shims_mm == (None, None)
    assert not none.fits


def test_without_decks_or_a_window_there_is_nothing_to_choose_by():
    gasket = FinalGasket(compressed_mm=1.0, bore_mm=97.0)
    assert gasket_options(evaluate(job(deck=())), [gasket]) == ()
    assert gasket_options(evaluate(job(limits=READY_MADE["makers"])), [gasket]) == ()


# --- the chart -------------------------------------------------------------------------------------------------------


@settings(max_examples=25)
@given(st.floats(-1.2, 0.4), st.floats(-1.2, 0.4), st.floats(7.0, 12.0), st.floats(0.5, 1.5))
def test_the_chart_recommends_the_thinnest_stack_that_evaluate_lets_pass(one, two, target, low):
    window = {QUENCH_LOW_LIMIT: Edit(low), QUENCH_HIGH_LIMIT: Edit(low + 0.4)}
    built = twin(one, two, limits=READY_MADE["street"].edited(window))
    # Street limits ask for a quench; the running estimate is not known, so that no metal counts.
    for row in deck_chart(evaluate(built), SHIMS, (target,)):
        (cell,) = row.cells
        if not row.cylinders:
            continue
        found = {}
        for total in np.unique(np.round(stacks_of(SHIMS).totals_mm, 6)):
            run = evaluate(replace(built, final_shims=(BaseShims(total_mm=float(total)),)))
            at = row.cylinders[0] - 1
            quench, ratio = (run.of_kind(kind)[at] for kind in (QUENCH_CHECK, RATIO_CHECK))
            high = ratio.figure is None or ratio.figure.value > target + 1e-6
            found[float(total)] = "thin" if high else quench.state
        passes = [total for state in (State.CLEAR, State.CLOSE) for total, was in found.items() if was is state]
        if cell.shims_mm is not None:
            assert sum(cell.shims_mm) == pytest.approx(passes[0])
        else:
            assert not passes
            thin = all(state == "thin" for state in found.values())
            assert cell.refused is (NoStack.THIN if thin else NoStack.OUTSIDE)


def test_the_makers_shims_stand_beside_with_what_they_give():
    built = twin(-0.60, -0.64, limits=WIDE)
    chart = MakersChart(rows=(MakersRow(from_mm=-0.62, to_mm=-0.58, shims_mm=0.75),))
    rows = {row.cylinders: row for row in deck_chart(evaluate(built), SHIMS, (9.0,), chart) if row.cylinders}
    own, makers = rows[1,].cells[0], rows[1,].makers
    run = evaluate(replace(built, final_shims=(BaseShims(total_mm=0.75),)))
    assert run.of_kind(QUENCH_CHECK)[0].figure.value == pytest.approx(makers.quench_mm)
    assert run.of_kind(RATIO_CHECK)[0].figure.value == pytest.approx(makers.ratio, rel=1e-6)
    assert rows[1,].makers_more_mm == pytest.approx(0.75 - sum(own.shims_mm))
    assert (rows[2,].makers, rows[2,].makers_more_mm) == (None, None)


def test_the_measured_barrels_are_marked_and_the_valve_margin_moves_with_the_deck():
    built = twin(-0.60, -0.64, limits=WIDE)
    report = evaluate(built)
    marked = {row.cylinders: row for row in deck_chart(report, SHIMS, (9.0,)) if row.cylinders}
    assert set(marked) == {(1,), (2,)}
    (cell,) = marked[1,].cells
    run = evaluate(replace(built, final_shims=(BaseShims(total_mm=sum(cell.shims_mm)),)))
    assert run.of_kind(QUENCH_CHECK)[0].figure.value == pytest.approx(cell.quench_mm)
    assert run.of_kind(RATIO_CHECK)[0].figure.value == pytest.approx(cell.ratio, rel=1e-6)
    assert cell.valve_margin_mm is not None


def test_one_deck_for_all_has_no_chart():
    assert deck_chart(evaluate(job()), SHIMS, (9.0,)) == ()
    assert deck_chart(evaluate(twin(-0.6, -0.6, volumes=())), SHIMS, (9.0,)) == ()


# --- towards a ratio -------------------------------------------------------------------------------------------------


def solved_job(built, solved):
    """The job with one part made what was solved for it."""
    if solved.unknown is Unknown.GASKET:
        return replace(built, final_gasket=replace(built.final_gasket, compressed_mm=solved.value))
    if solved.unknown is Unknown.DECK:
        return with_readings(
            built, deck=tuple(replace(one, clearance_mm=solved.value) for one in built.of(DeckReading))
        )
    if solved.unknown is Unknown.SHIMS:
        return replace(built, final_shims=(BaseShims(total_mm=solved.value),))
    part = VolumePart.CHAMBER if solved.unknown is Unknown.CHAMBER else VolumePart.PISTON
    return with_readings(
        built, volumes=(*built.of(VolumeReading), VolumeReading(key="new", part=part, cc=solved.value, cylinder=1))
    )


@settings(max_examples=60)
@given(st.floats(8.6, 10.4), st.booleans())
def test_solving_for_any_part_and_evaluating_gives_the_target(target, separate):
    built = twin(-0.1, -0.1, final_shims=(BaseShims(total_mm=0.5),)) if separate else job()
    found = solve_ratio(evaluate(built), 1, target)
    assert len(found) == 4
    for solved in found:
        if solved.refused or (solved.unknown is Unknown.GASKET and not 0.05 <= solved.value <= 6):
            continue
        after = evaluate(solved_job(built, solved))
        assert after.of_kind(RATIO_CHECK)[0].figure.value == pytest.approx(target, rel=1e-9)


def test_what_one_more_is_worth_is_the_slope_of_the_ratio():
    built = job()
    report = evaluate(built)
    chamber = next(one for one in solve_ratio(report, 1, 10.0) if one.unknown is Unknown.CHAMBER)
    step = 0.01
    more = evaluate(solved_job(built, replace(chamber, value=chamber.now + step)))
    difference = more.of_kind(RATIO_CHECK)[0].figure.value - report.of_kind(RATIO_CHECK)[0].figure.value
    assert chamber.gain == pytest.approx(difference / step, rel=1e-3)


def test_parts_smaller_than_nothing_are_refused():
    refused = {solved.unknown: solved.refused for solved in solve_ratio(evaluate(job()), 1, 25.0)}
    assert refused[Unknown.GASKET] == "A gasket cannot be that small."
    assert not refused[Unknown.PISTON]  # a dome may be as tall as it likes; the checks judge what it meets


@pytest.mark.parametrize("target", [1.0, 0.0, float("nan"), float("inf")])
def test_a_ratio_that_is_none_is_refused(target):
    with pytest.raises(ValueError, match="more than 1"):
        solve_ratio(evaluate(job()), 1, target)


def test_the_ratio_from_intake_closing_is_less_the_later_it_closes():
    report = evaluate(job())
    geometric = report.of_kind(RATIO_CHECK)[0].figure.value
    found = [ratio_from_intake_closing(report, 1, closes) for closes in (0.0, 40.0, 80.0)]
    assert found[0] == pytest.approx(geometric, rel=1e-4)
    assert found[0] > found[1] > found[2]
    with pytest.raises(ValueError, match="0 to 120"):
        ratio_from_intake_closing(report, 1, 200.0)
    assert ratio_from_intake_closing(evaluate(job(volumes=())), 1, 60.0) is None


def test_stacks_alike_under_all_are_told_from_what_lies_there_now():
    stacks = stacks_of((ShimKind(0.1, 6), ShimKind(0.25, 4)))
    assert alike_under_all(stacks, (0.1, 0.2))[:3] == (-0.1, 0.1, 0.15)
    assert alike_under_all(stacks, ()) == ()


def test_a_kind_is_laid_beside_where_one_of_its_checks_has_a_figure():
    plain = job(deck=(deck(1, 5),))
    report = evaluate(plain)
    assert len([check for check in report.of_kind(QUENCH_CHECK) if check.figure]) == 1
    found = {one.kind: one for one in effects(report, done(plain, cut(2)))}
    assert found[QUENCH_CHECK].before.label == "Quench 1"
    assert CROWN_CHECK not in found


# --- shims as typed --------------------------------------------------------------------------------------------------


def test_shims_are_typed_with_how_many_there_are():
    kinds = parse_shims("0.30 x 2; 0.65, .10×9", Unit.MILLIMETRE)
    assert [(one.thickness_mm, one.stock) for one in kinds] == [(0.30, 2), (0.65, 6), (0.10, 6)]
    assert parse_shims("12 x 2", Unit.INCH)[0].thickness_mm == pytest.approx(thou(12))
    assert parse_shims("  ", Unit.INCH) == ()
    for wrong in ("thick", "0", "20", "0.1;0.2;0.3;0.4;0.5;0.6;0.7"):
        with pytest.raises(LengthError):
            parse_shims(wrong, Unit.MILLIMETRE)
