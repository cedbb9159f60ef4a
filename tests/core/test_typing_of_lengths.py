"""How typing becomes a length and back."""

import math
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.quantity import shown, typed, typed_deck, typed_gap
from mockup.quantity.shown import format_both, format_dimension_expanded
from mockup.quantity.typed import LengthError
from mockup.quantity.value import DeckSign, Unit

INCH, MM = Unit.INCH, Unit.MILLIMETRE


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("112", INCH, 2.8448),
        ("11.5", INCH, 0.2921),
        (".112", INCH, 2.8448),
        ("0.112", INCH, 2.8448),
        ("112 thou", MM, 2.8448),
        ("0.112 in", MM, 2.8448),
        ('0.112"', MM, 2.8448),
        ("2.84mm", INCH, 2.84),
        ("2.84", MM, 2.84),
        ("1", INCH, 0.0254),
        ("0", INCH, 0.0),
        (" +36 ", INCH, 0.9144),
    ],
)
def test_bench_numbers_are_read_as_a_builder_means_them(text, unit, mm):
    assert typed.parse_bench_length(text, unit) == pytest.approx(mm, abs=1e-12)


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [("3.750", INCH, 95.25), ("95.25mm", INCH, 95.25), ("95.25", MM, 95.25), ("3.75 in", MM, 95.25)],
)
def test_large_lengths_take_the_unit_the_build_is_kept_in(text, unit, mm):
    assert typed.parse_dimension(text, unit) == pytest.approx(mm, abs=1e-12)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("5 out", -0.127),
        ("11 down", 0.2794),
        ("11down", 0.2794),
        ("zero", 0.0),
        ("0", 0.0),
        ("+5", 0.127),
        ("-5", -0.127),
        ("−5", -0.127),
        ("0.2 mm down", 0.2),
        ("5 out of the hole", -0.127),
        ("5 in the hole", 0.127),
    ],
)
def test_a_deck_is_said_in_words_or_signs(text, mm):
    assert typed_deck.parse_deck(text, INCH, DeckSign.DOWN_POSITIVE) == pytest.approx(mm, abs=1e-12)


def test_the_sign_school_turns_signs_and_never_words():
    out = DeckSign.OUT_POSITIVE
    assert typed_deck.parse_deck("+5", INCH, out) == -typed_deck.parse_deck("+5", INCH, DeckSign.DOWN_POSITIVE)
    assert typed_deck.parse_deck("5 out", INCH, out) == typed_deck.parse_deck("5 out", INCH, DeckSign.DOWN_POSITIVE)


@pytest.mark.parametrize(
    ("text", "why"),
    [("5 in", "down or out"), ("5in", "down or out"), ("5", "Which way"), ("out", "not a length"), ("", "Nothing")],
)
def test_a_deck_that_does_not_say_which_way_is_asked_about(text, why):
    with pytest.raises(LengthError, match=why):
        typed_deck.parse_deck(text, INCH, DeckSign.DOWN_POSITIVE)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "wide",
        "nan",
        "inf",
        "-5",
        "1e3",
        "1,104",
        "2,8,4",
        "1,104.5",
        "5 furlongs",
        "1.2.3",
        "--4",
        "0x10",
        "٣",
        "9" * 60,
        "5\x00",
        "½",
    ],
)
@pytest.mark.parametrize("unit", list(Unit))
def test_what_is_not_a_length_is_refused_in_words(text, unit):
    for parse in (typed.parse_bench_length, typed.parse_dimension):
        with pytest.raises(LengthError, match=r"\w+ \w+"):
            parse(text, unit)


@pytest.mark.parametrize(
    ("text", "cc"),
    [("dish 5.2 cc", 5.2), ("5.2 dish", 5.2), ("dome 11 cc", -11.0), ("flat", 0.0), ("Dome 3.5", -3.5)],
)
def test_a_piston_says_dish_or_dome(text, cc):
    assert typed.parse_piston_volume(text) == cc


@pytest.mark.parametrize("text", ["5.2", "-5.2", "dish -3", "dish", "dish dome 3", "62,4"])
def test_a_piston_volume_without_its_kind_is_refused(text):
    with pytest.raises(LengthError):
        typed.parse_piston_volume(text)


lengths = st.decimals(min_value=0, max_value=999, places=4).map(lambda number: f"{number:f}")
units = st.sampled_from(list(Unit))
endings = st.sampled_from(["", "mm", " in", " thou", '"'])


@given(lengths, endings, units)
def test_a_length_written_out_and_read_again_is_the_same_length(number, ending, unit):
    mm = typed.parse_bench_length(number + ending, unit)
    assert typed.parse_bench_length(shown.format_exact(mm, unit), unit) == pytest.approx(mm, abs=1e-9)


@given(lengths, units)
def test_the_echo_says_what_is_stored_to_its_last_digit(number, unit):
    mm = typed.parse_bench_length(number, unit)
    inches, metric = sorted(shown.format_both(mm, unit).split(" · "), key=lambda part: part.endswith("mm"))
    assert abs(float(inches.removesuffix(" in")) * 25.4 - mm) <= 0.00005 * 25.4 + 1e-9
    assert abs(float(metric.removesuffix(" mm")) - mm) <= 0.0005 + 1e-9


@given(st.text(max_size=50), units, st.sampled_from(list(DeckSign)))
def test_no_typing_whatever_is_taken_silently_or_breaks(text, unit, sign):
    for parse in (
        lambda: typed.parse_bench_length(text, unit),
        lambda: typed_deck.parse_deck(text, unit, sign),
        lambda: typed.parse_piston_volume(text),
    ):
        try:
            found = parse()
        except LengthError as error:
            assert str(error)  # noqa: PT017, either way is right
        else:
            assert math.isfinite(found)
            assert any(character.isdigit() for character in text) or not found


@given(st.floats(-5, 5, allow_nan=False), units)
def test_margin_is_never_shown_larger_than_it_is(mm, unit):
    text = shown.format_margin(mm, unit)
    shown_mm = float(text.replace("−", "-")) * (0.0254 if unit is INCH else 1.0)
    assert shown_mm <= mm + 2e-6
    assert (mm < -1e-6) == text.startswith("−")


@given(st.floats(0, 5, allow_nan=False), units)
def test_an_uncertainty_is_never_shown_smaller_than_it_is(mm, unit):
    text = shown.format_expanded(mm, unit)
    assert Decimal(text) * (Decimal("0.0254") if unit is INCH else 1) >= Decimal(mm) - Decimal("1e-9")


def test_thou_are_shown_to_the_tenth_where_it_is_known():
    assert [shown.format_bench(v * 0.0254, INCH) for v in (93.5, 80.0, -2.9)] == ["93.5", "80", "−2.9"]
    assert [shown.format_deck(v * 0.0254, INCH) for v in (6, -2, 0)] == ["6 down", "2 out", "zero"]
    assert shown.format_deck_signed(-0.0508, INCH, DeckSign.OUT_POSITIVE) == "+2"


@pytest.mark.parametrize(
    ("mm", "unit", "shown"),
    [
        (0.1651, Unit.INCH, "0.0065"),
        (0.16511, Unit.INCH, "0.0066"),
        (0.17, Unit.MILLIMETRE, "0.17"),
        (0.1701, Unit.MILLIMETRE, "0.18"),
        (0.0, Unit.INCH, "0.0000"),
    ],
)
def test_the_u_of_a_large_length_is_rounded_up(mm, unit, shown):
    assert format_dimension_expanded(mm, unit) == shown


def test_both_units_are_echoed_the_builds_own_first():
    assert format_both(2.8448, Unit.INCH) == "0.1120 in · 2.845 mm"
    assert format_both(2.8448, Unit.MILLIMETRE) == "2.845 mm · 0.1120 in"


COMMAS = {"0,112": "0.112", ",112": ".112", "2,84 mm": "2.84 mm", "11,5": "11.5", "12,50": "12.50"}


@pytest.mark.parametrize("text", COMMAS)
def test_a_decimal_comma_is_read_as_a_point(text):
    assert typed.parse_bench_length(text, Unit.INCH) == typed.parse_bench_length(COMMAS[text], Unit.INCH)


@pytest.mark.parametrize("text", ["1,104", "12,500", "104,000 mm", "1,104.5", "2,8,4"])
def test_a_comma_that_could_part_thousands_is_asked_about(text):
    with pytest.raises(LengthError, match="comma"):
        typed.parse_bench_length(text, Unit.MILLIMETRE)


@pytest.mark.parametrize(
    ("text", "mm", "half_mm"),
    [("94", 2.3876, 0.0), ("goes 130 not 134", 3.3528, 0.0508), ("Goes .013, not .014", 0.3429, 0.0127)],
)
def test_a_gap_is_a_length_or_between_two_feelers(text, mm, half_mm):
    found = typed_gap.parse_gap(text, INCH)
    assert (found.mm, found.half_width_mm) == pytest.approx((mm, half_mm), abs=1e-9)
    assert typed_gap.split_before_gap(f"9 ATDC {text}") == ("9 ATDC", text)
    out = typed_deck.parse_deck_reading(f"{text} out", INCH, DeckSign.DOWN_POSITIVE)
    assert (out.mm, out.half_width_mm) == pytest.approx((-mm, half_mm), abs=1e-9)


@pytest.mark.parametrize("text", ["goes", "goes 13", "goes 14 not 13", "goes 13 not 13", "goes a not b", "94 goes"])
def test_half_of_a_pair_of_feelers_is_no_gap(text):
    with pytest.raises(LengthError):
        typed_gap.parse_gap(text, INCH)
    with pytest.raises(LengthError):
        typed_gap.split_before_gap("goes 13 not 14")
