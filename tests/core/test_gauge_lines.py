"""Lines of gauges on a serial cable, read by ways that are described."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.quantity.gauge_lines import READY_MADE, Between, GaugeWay, Shape, read_line
from mockup.quantity.typed import parse_bench_length
from mockup.quantity.value import Unit


@pytest.mark.parametrize(
    ("way", "line", "typed"),
    [
        ("plain", "0.1120 in\r", "0.1120 in"),
        ("plain", "+2.845mm", "2.845 mm"),
        ("plain", "-0.0025 inch", "-0.0025 in"),
        ("plain", "112", "112"),
        ("plain", "2,84 mm", "2.84 mm"),
        ("columns", "12:04:31;0.1120;in", "0.1120 in"),
        ("columns", "12:04:31; 112 ;thou", "112 thou"),
        ("json", '{"value": 0.1120, "unit": "in", "gauge": 3}', "0.1120 in"),
        ("json", '{"value": "2,845", "unit": "mm"}', "2.845 mm"),
        ("json", '{"value": 112}', "112"),
    ],
)
def test_the_three_open_ways_are_read_as_somebody_would_type_it(way, line, typed):
    assert read_line(line, READY_MADE[way]) == typed


def test_a_way_of_ones_own_is_read_by_its_columns_and_its_unit():
    way = GaugeWay(name="ours", shape=Shape.COLUMNS, between=Between.BLANK, value_at="3", unit="mm", baud=4800)
    assert read_line("GA  01   2.845  ok", way) == "2.845 mm"
    assert read_line(way.example, way) == "0.1120 mm"


@pytest.mark.parametrize("way", READY_MADE.values(), ids=READY_MADE)
def test_every_way_reads_its_own_example_and_the_page_can_show_it(way):
    assert parse_bench_length(read_line(way.example, way), Unit.INCH) == pytest.approx(2.8448)


@pytest.mark.parametrize(
    ("way", "line"),
    [
        ("plain", ""),
        ("plain", "no gauge"),
        ("plain", "1.2.3 in"),
        ("plain", "0.112 furlongs"),
        ("plain", "9" * 500),
        ("columns", "0.1120"),
        ("columns", "a;b;c"),
        ("json", "{"),
        ("json", "[" * 390),
        ("json", "[1]"),
        ("json", '{"value": null}'),
        ("json", '{"value": {"a": 1}, "unit": []}'),
        ("json", '{"value": NaN}'),
    ],
)
def test_what_holds_no_reading_is_refused_in_words(way, line):
    with pytest.raises(FaultsError, match="line"):
        read_line(line, READY_MADE[way])


@pytest.mark.parametrize(
    "wrong",
    [
        {"baud": 9601},
        {"unit": "ell"},
        {"shape": Shape.COLUMNS, "value_at": "0"},
        {"shape": Shape.JSON, "value_at": " "},
        {"name": " "},
    ],
)
def test_a_way_that_cannot_be_is_refused(wrong):
    with pytest.raises(FaultsError):
        GaugeWay(**({"name": "ours"} | wrong))


@given(st.text(max_size=60), st.sampled_from(list(READY_MADE)))
def test_whatever_a_cable_brings_is_a_reading_or_refused(line, way):
    try:
        typed = read_line(line, READY_MADE[way])
    except FaultsError:
        return
    assert len(typed) <= 80
    assert typed.isprintable()
