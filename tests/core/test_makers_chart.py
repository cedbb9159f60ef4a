"""A maker's chart of separate barrels: typed, pasted, looked up."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.engine.makers_chart import MakersChart, MakersRow, format_makers_chart, parse_makers_chart
from mockup.quantity.value import DeckSign, Unit

DOWN = DeckSign.DOWN_POSITIVE


def read(text, unit=Unit.MILLIMETRE, sign=DOWN):
    return [(row.from_mm, row.to_mm, row.shims_mm) for row in parse_makers_chart(text, unit, sign).rows]


@pytest.mark.parametrize(
    "text",
    [
        "0.20 down to 0.25 down: 0.50",
        "0.20 to 0.25 down: 0.50",
        "0.20 – 0.25 down\t0.25 + 0.25",
        "deck\tshims\n0.20 down\t0.25 down\t0.50",
        "0.25 down to 0.20 down = 0.50",
        "  0.20 down to 0.25 down   0.50  \n\n",
    ],
)
def test_a_row_is_read_however_it_is_parted(text):
    assert read(text) == [pytest.approx((0.20, 0.25, 0.50))]


def test_decks_are_typed_as_everywhere():
    assert read("zero: none\n5 out to 2 out: 10 + 5", Unit.INCH) == [
        pytest.approx((0.0, 0.0, 0.0)),
        pytest.approx((-0.127, -0.0508, 0.381)),
    ]
    assert read("+0.10: 0.3", sign=DeckSign.OUT_POSITIVE) == [pytest.approx((-0.10, -0.10, 0.3))]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "Type a row"),
        ("0.20 down 0.50", "Line 1: Type a row"),
        ("0.2 down: 0.5\n0.20: 0.50", "Line 2: Which way?"),
        ("0.20 down: thick", "Line 1: “thick” is not a length"),
        ("0.20 down: 50", "Line 1: Shims of"),
        ("70 down: 0.5", "Line 1: A deck within"),
        ("0.1 to 0.2 to 0.3 down: 0.5", "Line 1: A row has one deck or two"),
        ("0.1 to 0.3 down: 0.5\n0.2 to 0.4 down: 0.7", "different shims"),
        ("\n".join("0.1 down: 0.5" for _ in range(62)), "At most 60 rows"),
    ],
)
def test_what_is_no_chart_says_why_with_its_line(text, words):
    with pytest.raises(FaultsError) as refused:
        read(text)
    assert words in refused.value.faults[0].message
    assert refused.value.faults[0].path == "rows"


@pytest.mark.parametrize(
    ("deck", "shims"),
    [
        (0.10, 0.7),
        (0.15, 0.7),
        (0.20, 0.7),
        (0.22, 0.5),
        (0.26, 0.5),
        (0.29, 0.3),
        (0.3, 0.3),
        (0.09, None),
        (0.4, None),
    ],
)
def test_a_deck_is_looked_up_in_its_range_then_in_the_nearer_row_and_never_off_the_chart(deck, shims):
    # Two rows meet at 0.20: the thicker shims leave the crown further down.
    chart = parse_makers_chart("0.10 to 0.20 down: 0.7\n0.20 to 0.25 down: 0.5\n0.30 down: 0.3", Unit.MILLIMETRE, DOWN)
    assert chart.shims_mm(deck) == shims


@given(st.lists(st.floats(-2, 2).map(lambda mm: round(mm, 2)), min_size=1, max_size=20, unique=True))
def test_every_row_finds_its_own_shims(decks):
    chart = MakersChart(rows=tuple(MakersRow(from_mm=one, to_mm=one, shims_mm=abs(one)) for one in decks))
    assert all(chart.shims_mm(one) == abs(one) for one in decks)


@given(
    st.lists(st.floats(-2, 2).map(lambda mm: round(mm, 3)), min_size=1, max_size=9, unique=True), st.sampled_from(Unit)
)
def test_a_chart_as_text_is_read_again_as_the_same(decks, unit):
    rows = tuple(MakersRow(from_mm=one, to_mm=one + 0.0005, shims_mm=round(abs(one), 3)) for one in decks)
    text = format_makers_chart(MakersChart(rows=rows), unit)
    assert read(text, unit) == [pytest.approx((row.from_mm, row.to_mm, row.shims_mm), abs=1e-6) for row in rows]
