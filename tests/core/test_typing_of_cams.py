"""Crank angles and lift tables as people type and paste them."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.formats.lobe_csv import write_lobe_csv
from mockup.quantity.pasted import parse_pasted
from mockup.quantity.typed import LengthError
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.value import Unit
from tests.making_readings import table


@pytest.mark.parametrize(
    ("text", "bdc", "angle"),
    [
        ("12 BTDC", 180, -12), ("68.5 atdc", 180, 68.5), ("54 ABDC", 180, 234), ("20 BBDC", 180, 160),
        ("70 bbdc", -180, -250), ("10 ABDC", -180, -170), ("zero", 180, 0), ("30° after", 180, 30), ("5 b", 180, -5),
    ],
)  # fmt: skip
def test_crank_angles_are_read_as_cards_print_them(text, bdc, angle):
    assert parse_crank_angle(text, bdc) == angle


@pytest.mark.parametrize("text", ["12", "", "-12 BTDC", "12 west", "400 ATDC", "190 ABDC", "nan BTDC", "1..2 ATDC"])
def test_a_crank_angle_without_its_letters_is_asked_for(text):
    with pytest.raises(LengthError):
        parse_crank_angle(text, 180)


@given(st.floats(-359, 359))
def test_a_crank_angle_shown_reads_back(angle):
    shown = format_crank_angle(round(angle, 1))
    if shown not in ("TDC", "BDC"):
        assert parse_crank_angle(shown, 180.0 if angle > 0 else -180.0) == pytest.approx(round(angle, 1), abs=1e-9)


@pytest.mark.parametrize(
    ("text", "unit", "first", "note"),
    [
        ("-60\t0\n0\t9.1\n60\t0", Unit.MILLIMETRE, (-60.0, 0.0), "mm"),
        ("angle;lift (in)\n-60;0\n0;0,358\n60;0", Unit.MILLIMETRE, (-60.0, 0.0), "decimal commas"),
        ("Crank, Lift thou\n-60, 0\n0, 358", Unit.INCH, (-60.0, 0.0), "thou"),
        ("−60° 0.000\n0° .358 in", Unit.MILLIMETRE, (-60.0, 0.0), "lifts read as mm"),
        ("-60,5 0\n0 9,1\n60 0", Unit.MILLIMETRE, (-60.5, 0.0), "decimal commas"),
        ("-60.5,0\n0,9.1\n60,0", Unit.MILLIMETRE, (-60.5, 0.0), "lifts read as mm"),
    ],
)  # fmt: skip
def test_pasted_tables_are_read_whatever_their_separators(text, unit, first, note):
    found = parse_pasted(text, unit)
    assert (found.angles[0], found.lifts_mm[0]) == first
    assert found.lifts_mm[1] == pytest.approx(9.1, abs=0.01)
    assert any(note in said for said in found.notes)


@pytest.mark.parametrize("text", ["", "a\nb", "1,2,3\n4,5,6", "0 1\n5 x", "9" * 70_000])
def test_what_is_no_table_is_refused_with_its_line(text):
    with pytest.raises(LengthError):
        parse_pasted(text, Unit.INCH)


@given(st.integers(1, 12), st.floats(100, 128), st.floats(4, 14))
def test_a_table_exported_and_imported_is_unchanged(step, half_width, lift):
    original = table(step=step, half_width=half_width, lift=round(lift, 3))
    original = replace(original, lifts_mm=tuple(round(one, 4) for one in original.lifts_mm))
    once = parse_pasted(write_lobe_csv(original), Unit.INCH)
    assert (once.angles, once.lifts_mm) == (original.angles_deg, original.lifts_mm)
