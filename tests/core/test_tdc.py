"""Finding TDC: the wheel's error, its uncertainty, and which TDC is which."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.evaluate import evaluate
from mockup.motion.slider_crank import SliderCrank, slider_crank
from mockup.quantity.typed import LengthError, parse_degrees, parse_firing_order
from mockup.readings.instruments import DEFAULT_INSTRUMENTS
from mockup.readings.record import Record
from mockup.readings.tdc import TdcMethod, TdcReading, companion, tdc_figure
from tests.making import engine, job

PLAIN = SliderCrank(44.2, 145.0)


def pair(before, after, **changes):
    return TdcReading(**({"key": f"{before}-{after}", "before_deg": before, "after_deg": after} | changes))


def test_half_the_difference_is_the_wheels_error_and_reads_late_where_after_is_more():
    figure = tdc_figure([pair(28, 31)], PLAIN, DEFAULT_INSTRUMENTS)
    assert figure.error_deg.value == pytest.approx(1.5)
    assert figure.set_to_deg == pytest.approx(29.5)
    assert figure.error_deg.u == pytest.approx(0.5 / 12**0.5 / 2**0.5)


def test_repeats_are_averaged_and_their_scatter_counts():
    together = tdc_figure([pair(28, 31), pair(28.5, 31.5)], PLAIN, DEFAULT_INSTRUMENTS)
    apart = tdc_figure([pair(28, 31), pair(28, 35)], PLAIN, DEFAULT_INSTRUMENTS)
    assert together.error_deg.value == pytest.approx(1.5)
    assert apart.error_deg.u > together.error_deg.u


def test_an_indicator_read_where_the_piston_hardly_moves_is_less_sure():
    near = tdc_figure([pair(5, 5, method=TdcMethod.DROP, drop_mm=0.2)], PLAIN, DEFAULT_INSTRUMENTS)
    far = tdc_figure([pair(60, 60, method=TdcMethod.DROP, drop_mm=25.0)], PLAIN, DEFAULT_INSTRUMENTS)
    assert near.error_deg.u > far.error_deg.u


@given(st.floats(-8, 8), st.floats(1.0, 40.0), st.floats(-20, 20))
def test_with_any_offset_the_true_error_is_found(offset, drop, error):
    crank = slider_crank(engine(pin_offset_mm=offset))
    after = crank.angle_at_deg(drop)
    mirrored = SliderCrank(crank.radius_mm, crank.rod_mm, -crank.offset_mm)
    before = mirrored.angle_at_deg(drop)  # going up is coming down on the other hand
    if before - error < 1 or after + error < 1:
        return
    figure = tdc_figure([pair(before - error, after + error, drop_mm=drop)], crank, DEFAULT_INSTRUMENTS)
    assert figure.error_deg.value == pytest.approx(error, abs=0.02)


def test_pairs_struck_out_do_not_count():
    assert tdc_figure([pair(28, 31, record=Record(struck="pointer moved"))], PLAIN, DEFAULT_INSTRUMENTS) is None


@pytest.mark.parametrize(
    ("before", "after", "more"),
    [
        (0, 31, {}),
        (28, 200, {}),
        (float("nan"), 31, {}),
        (28, 31, {"method": TdcMethod.DROP}),
        (28, 31, {"drop_mm": -1.0}),
    ],
)
def test_a_pair_that_cannot_be_is_refused(before, after, more):
    with pytest.raises(FaultsError):
        pair(before, after, **more)


def test_pairs_far_apart_are_asked_about():
    report = evaluate(job(tdc=(pair(28, 31), pair(28, 41))))
    assert any("disagree" in question.text for question in report.questions)


def test_a_needle_alone_hides_more_than_a_degree():
    assert evaluate(job()).tdc.dwell_deg > 2.0


@pytest.mark.parametrize(
    ("order", "first", "other"),
    [((1, 5, 3, 6, 2, 4), 1, 6), ((1, 3, 4, 2), 1, 4), ((1, 2, 3), 1, None), ((), 1, None), ((1, 2), 3, None)],
)
def test_the_companion_is_half_the_firing_order_away(order, first, other):
    assert companion(order, first) == other


@pytest.mark.parametrize("order", [(1, 1), (1,), (2, 3)])
def test_a_firing_order_names_every_cylinder_once(order):
    with pytest.raises(FaultsError):
        engine(firing_order=order)


def test_degrees_and_firing_orders_are_read_as_people_write_them():
    assert (parse_degrees("27.5°"), parse_degrees("27 deg")) == (27.5, 27.0)
    assert parse_firing_order("1-5-3-6-2-4") == parse_firing_order("1 5 3 6 2 4") == (1, 5, 3, 6, 2, 4)
    for bad in ("", "-3", "1e2", "nan", "1,275"):
        with pytest.raises(LengthError):
            parse_degrees(bad)
    with pytest.raises(LengthError):
        parse_firing_order("1-five")
