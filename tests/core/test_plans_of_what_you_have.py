"""A gasket to order, ranges of the deck chart, relief edges, windows, coverage."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.checks.compression import RATIO_CHECK
from mockup.checks.coverage import covered, wanted_next
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valves import FACE_INTAKE_CHECK, RADIAL_CHECK
from mockup.context import EvaluationContext
from mockup.engine.block import Layout
from mockup.engine.gasket import FinalGasket
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.limits.limit_set import Coverage, Edit
from mockup.limits.schools import READY_MADE
from mockup.plans.deck_chart import deck_chart, deck_ranges
from mockup.plans.gasket_to_order import gasket_to_order
from mockup.plans.relief_edges import lay_back
from mockup.plans.shim_stacks import ShimKind
from mockup.quantity.typed import LengthError, parse_window
from mockup.quantity.typed_train import parse_wipe
from mockup.quantity.value import Unit
from mockup.readings.clay import Gap
from tests.making import barrels, clay, deck, engine, job, thou

WINDOW = {QUENCH_LOW_LIMIT: Edit(thou(48)), QUENCH_HIGH_LIMIT: Edit(thou(56))}


def limits(**edits):
    return READY_MADE["street"].edited(edits or WINDOW)


@pytest.mark.parametrize("decks", [(11, 11.5), (9, 12), (10, 10)])
def test_the_gasket_to_order_keeps_every_cylinder_inside_at_both_its_ends(decks):
    made = job(limits=limits(), deck=tuple(deck(c, down) for c, down in enumerate(decks, start=1)), final_gasket=None)
    order = gasket_to_order(evaluate(made))
    assert order.serves
    for thick, inside in ((order.thinnest_mm, 1e-4), (order.thickest_mm, -1e-4)):
        at_the_end = evaluate(replace(made, final_gasket=FinalGasket(compressed_mm=thick + inside)))
        assert {check.state for check in at_the_end.of_kind(QUENCH_CHECK)} == {State.CLEAR}
        beyond = evaluate(replace(made, final_gasket=FinalGasket(compressed_mm=thick - inside)))
        assert {check.state for check in beyond.of_kind(QUENCH_CHECK)} - {State.CLEAR}


def test_where_no_one_gasket_serves_the_cylinders_that_stop_it_are_named():
    order = gasket_to_order(evaluate(job(limits=limits(), deck=(deck(1, 2), deck(2, 14)))))
    assert (order.serves, order.thinnest_for, order.thickest_for) == (False, 1, 2)
    assert gasket_to_order(evaluate(job(deck=()))) is None


def test_the_chart_as_ranges_gives_the_same_stack_as_the_chart_at_every_deck():
    shims = (ShimKind(thickness_mm=0.25, stock=8), ShimKind(thickness_mm=0.4, stock=8))
    report = evaluate(job(engine=barrels(), final_gasket=FinalGasket(compressed_mm=1.0, bore_mm=97.0)))
    (ratio,) = (check.figure.value for check in report.of_kind(RATIO_CHECK)[:1])
    for target in (ratio - 0.4, ratio - 1.0, ratio + 3):
        ranges = deck_ranges(report, shims, target)
        assert all(np.isclose(one.high_mm, two.low_mm) for one, two in itertools.pairwise(ranges))
        for row in deck_chart(report, shims, (target,)):
            of = next(one for one in ranges if one.low_mm - 1e-9 <= row.deck_mm <= one.high_mm + 1e-9)
            if min(abs(row.deck_mm - of.low_mm), abs(row.deck_mm - of.high_mm)) > 1e-6:
                assert of.shims_mm == row.cells[0].shims_mm


def test_an_edge_is_laid_back_by_what_each_side_lacks():
    strict = READY_MADE["street-floor"]
    slices = (
        clay(9, gap=Gap.RADIAL, spot="wall"),
        clay(26, gap=Gap.RADIAL, spot="plug"),
        clay(60, gap=Gap.RADIAL, spot="front"),
    )
    report = evaluate(job(limits=strict, clay=slices))
    (check,) = (check for check in report.of_kind(RADIAL_CHECK) if check.governing)
    found = {one.where: one.by_mm for one in lay_back(report, check)}
    assert set(found) == {"wall", "plug"}
    # Laid back by so much, the nearest side just stands clear.
    assert check.figure.value + found["wall"] - check.figure.expanded == pytest.approx(thou(20))
    assert found["wall"] - found["plug"] == pytest.approx(thou(17))
    assert not list(lay_back(report, report.of_kind(FACE_INTAKE_CHECK)[0]))


@pytest.mark.parametrize(
    ("text", "is_length", "ends"),
    [
        ("52 ± 3", True, (thou(49), thou(55))),
        ("52 +- 3", True, (thou(49), thou(55))),
        ("49 to 55", True, (thou(49), thou(55))),
        ("1.2mm to 1.5mm", True, (1.2, 1.5)),
        ("9.5 ± 0.25", False, (9.25, 9.75)),
    ],
)
def test_a_window_is_read_by_its_aim_or_by_its_ends(text, is_length, ends):
    assert parse_window(text, Unit.INCH, is_length=is_length) == pytest.approx(ends)


@pytest.mark.parametrize("text", ["", "52", "52 ± 3 ± 1", "wide ± 3", "-9 to 9"])
def test_what_is_no_window_is_refused(text):
    with pytest.raises(LengthError):
        parse_window(text, Unit.INCH, is_length=False)


@pytest.mark.parametrize(
    ("text", "square", "angle"), [("88°", True, 88), ("97 deg at half lift", False, 97), ("square", True, None)]
)
def test_a_wipe_and_the_rockers_angle_are_one_record(text, square, angle):
    typed = parse_wipe(f"120 to 210 of 342, {text}", Unit.INCH)
    assert (typed.square, typed.half_lift_deg) == (square, angle)


@given(st.data())
def test_reading_the_cylinders_that_are_wanted_covers_the_sheet_and_no_fewer_do(data):
    cylinders = data.draw(st.sampled_from([1, 2, 4, 6, 8]))
    layout = data.draw(st.sampled_from(list(Layout) if cylinders % 2 == 0 else [Layout.INLINE]))
    coverage = data.draw(st.sampled_from(list(Coverage)))
    made = job(
        engine=engine(cylinders=cylinders, layout=layout),
        limits=replace(limits(), coverage=coverage),
        clay=(),
        deck=(),
        volumes=(),
    )
    order = data.draw(st.permutations(range(1, cylinders + 1)))
    read = set(order[: data.draw(st.integers(0, cylinders))])
    wanted = wanted_next(made, read, order)
    context = EvaluationContext(made)
    assert covered(context, read | set(wanted))
    assert all(not covered(context, (read | set(wanted)) - {one}) for one in wanted)
