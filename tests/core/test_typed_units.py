"""Temperatures, masses and areas in the units of a build."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import constants

from mockup.quantity.typed import LengthError
from mockup.quantity.typed_units import AREA, MASS, RISE
from mockup.quantity.value import Unit

INCH, MM = Unit.INCH, Unit.MILLIMETRE


def test_the_factors_are_those_of_a_general_library():
    # scipy.constants: independent library.
    assert MASS.parse("1 oz", MM) == pytest.approx(constants.oz * 1000)
    assert MASS.parse("1 lb", MM) == pytest.approx(constants.lb * 1000)
    assert AREA.parse("1 sq in", MM) == pytest.approx(constants.inch**2 * 1e6)
    assert RISE.parse("1 °F", MM) == pytest.approx(constants.degree_Fahrenheit)


@pytest.mark.parametrize(
    ("quantity", "text", "unit", "value"),
    [
        (RISE, "117", INCH, 65.0), (RISE, "65", MM, 65.0), (RISE, "65 K", INCH, 65.0), (RISE, "65°C", INCH, 65.0),
        (RISE, "117F", MM, 65.0), (MASS, "910 g", INCH, 910.0), (MASS, "0.91 kg", INCH, 910.0),
        (MASS, "910", MM, 910.0), (AREA, "0,25", INCH, 161.29), (AREA, "165 mm2", INCH, 165.0),
    ],
)  # fmt: skip
def test_a_plain_number_is_in_the_builds_unit_and_a_typed_unit_always_holds(quantity, text, unit, value):
    assert quantity.parse(text, unit) == pytest.approx(value)


@pytest.mark.parametrize("text", ["", "warm", "-5", "5 stone", "1 2", "9" * 60, "nan"])
def test_anything_else_is_refused_with_how_to_type_it(text):
    for quantity in (RISE, MASS, AREA):
        with pytest.raises(LengthError, match="Type a number of"):
            quantity.parse(text, INCH)


@given(st.sampled_from([RISE, MASS, AREA]), st.sampled_from(list(Unit)), st.floats(0.5, 5000))
def test_what_is_shown_is_read_again_as_the_same(quantity, unit, value):
    again = quantity.parse(quantity.format(value, unit), unit)
    assert again == pytest.approx(value, rel=6e-4)
    assert quantity.format(again, unit) == quantity.format(value, unit)
