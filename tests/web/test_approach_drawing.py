"""Chart and section of the indicator page: every mark is where its figure puts it."""

import json
import re
from dataclasses import replace

import pytest

from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Relief, Side
from mockup.evaluate import evaluate
from mockup.quantity.value import Unit
from tests.making import engine, inclined, job, thou
from tests.making_readings import SWEPT, sweep
from web.drawings.approach import approach_chart
from web.drawings.chamber import chamber_section
from web.drawings.overlap import BOTTOM, LEFT, RIGHT, TOP

EXHAUST = tuple(
    sweep(angle, down, Side.EXHAUST) for angle, down in ((-20, 172.5), (-15, 134), (-10, 110), (-5, 99.5), (0, 103))
)
THICKER = FinalGasket(compressed_mm=thou(41), bore_mm=97.0)


def drawn(*readings, **changes):
    return evaluate(job(clay=(), sweeps=readings or (*SWEPT, *EXHAUST), **changes))


def points(path):
    return [tuple(float(part) for part in pair.split(",")) for pair in re.findall(r"-?[\d.]+,-?[\d.]+", path)]


def test_nothing_is_drawn_before_there_is_a_fit():
    assert approach_chart(drawn(*SWEPT[:2]), 1) is None
    assert chamber_section(drawn(*SWEPT[:2]), 1) is None
    assert approach_chart(drawn(), 2) is None


def test_both_valves_stand_on_one_chart_with_their_minimums_and_what_they_want():
    intake, exhaust = approach_chart(drawn(), 1).curves
    assert (intake.label, exhaust.label) == ("Intake 1", "Exhaust 1")
    assert intake.words.endswith("at 5 ATDC")
    assert exhaust.words.endswith("at 4 BTDC")
    assert exhaust.min_x < approach_chart(drawn(), 1).tdc_x < intake.min_x
    assert intake.need.startswith("wants ")
    assert intake.need_y > 0


def test_the_chart_is_of_the_running_engine_and_says_so():
    report = drawn(*SWEPT, final_gasket=THICKER)
    chart = approach_chart(report, 1)
    assert chart.conditions == "as it will run"
    figure = report.checks[0].figure.value
    assert chart.curves[0].words.startswith(f"{figure / thou(1):.1f}")


def test_without_a_final_gasket_it_is_of_the_mock_up_and_says_so():
    report = drawn(*SWEPT, final_gasket=None)
    chart = approach_chart(report, 1)
    assert chart.conditions == "as mocked up"
    assert chart.curves[0].words.startswith(f"{report.sweeps[0].closest.minimum.value / thou(1):.1f}")


def test_every_reading_has_a_dot_inside_its_own_bar():
    dots = approach_chart(drawn(), 1).curves[0].dots
    assert len(dots) == len(SWEPT)
    assert all(dot.high <= dot.y <= dot.low for dot in dots)  # y counts downward
    assert [dot.x for dot in dots] == sorted(dot.x for dot in dots)


def test_the_curve_passes_its_own_minimum_and_stays_on_the_sheet():
    for curve in approach_chart(drawn(), 1).curves:
        xs, ys = zip(*points(curve.path), strict=True)
        assert max(ys) == pytest.approx(curve.min_y, abs=0.6)
        assert all(LEFT <= x <= RIGHT for x in xs)
        assert all(TOP - 1 <= y <= BOTTOM for y in ys)
        assert min(ys) >= TOP - 1  # cut off at the top rather than drawn flat along it
        assert len([y for y in ys if y == min(ys)]) < 3


def test_the_scale_is_in_the_unit_of_the_build():
    inch, metric = (approach_chart(drawn(unit=unit), 1) for unit in (Unit.INCH, Unit.MILLIMETRE))
    assert (inch.unit, metric.unit) == ("thou", "mm")
    assert "50" in [words for _, words in inch.rises]
    assert "1" in [words for _, words in metric.rises]


def test_where_to_read_next_is_marked_until_it_is_enough():
    assert approach_chart(drawn(*SWEPT[2:]), 1).curves[0].next_x is not None
    enough = approach_chart(drawn(*SWEPT, *(replace(SWEPT[1], key=f"r{n}") for n in range(12))), 1)
    assert enough.curves[0].next_x is None


def test_the_section_turns_by_frames_whose_gap_is_the_curve():
    section = chamber_section(drawn(*SWEPT), 1)
    frames = json.loads(section.frames)
    assert len(frames) == section.last - section.first + 1
    gaps = [float(frame["valves"]["intake"]["gap"].removeprefix("gap ")) for frame in frames]
    closest = frames[gaps.index(min(gaps))]
    assert closest["deg"] in ("5 ATDC", "6 ATDC")
    assert section.first <= section.start <= section.last
    assert min(gaps) == pytest.approx(85.3, abs=0.6)


def test_the_crown_stands_lowest_away_from_tdc():
    section = chamber_section(drawn(*SWEPT), 1)
    frames = {frame["deg"]: frame for frame in json.loads(section.frames)}
    assert frames["20 ATDC"]["crown"] > frames["10 ATDC"]["crown"] > frames["TDC"]["crown"]


def test_a_valve_is_said_not_to_be_read_where_its_curve_does_not_reach():
    frames = {frame["deg"]: frame["valves"] for frame in json.loads(chamber_section(drawn(), 1).frames)}
    assert "TDC" in frames
    beyond = [valves["exhaust"]["gap"] for deg, valves in frames.items() if deg.endswith("ATDC")]
    assert all(gap == "not read here" for gap in beyond)


@pytest.mark.parametrize(("relief", "pocket"), [(Relief.PARALLEL, True), (Relief.FLAT, False)])
def test_a_relief_is_drawn_only_where_the_block_has_one(relief, pocket):
    leaning = engine(intake=inclined(12, relief))
    (body,) = chamber_section(drawn(*SWEPT, engine=leaning), 1).bodies
    assert bool(body.pocket) is pocket
    assert "rotate(" in body.transform


def test_a_known_valve_size_is_drawn_to_scale():
    small, large = (
        chamber_section(drawn(*SWEPT, engine=engine(intake=replace(inclined(0), diameter_mm=size))), 1).bodies[0]
        for size in (30.0, 45.0)
    )
    widths = [float(re.match(r"M-([\d.]+),0", body.outline).group(1)) for body in (small, large)]
    assert widths[1] / widths[0] == pytest.approx(1.5, abs=0.01)


@pytest.mark.parametrize("down", [95, 430, 900])
def test_a_valve_with_much_room_is_drawn_on_the_chart_and_not_above_it(down):
    read = tuple(replace(one, clearance_mm=one.clearance_mm + thou(down - 85)) for one in SWEPT)
    chart = approach_chart(drawn(*read), 1)
    (curve,) = chart.curves
    assert TOP < curve.min_y < BOTTOM
    assert any(TOP <= y <= BOTTOM for _, y in points(curve.path))
    assert 3 <= len(chart.rises) <= 9
