"""Readings as tables: what goes out comes in the same; faults by row and column."""

import io
import zipfile
from dataclasses import replace
from enum import StrEnum

import pytest
from hypothesis import HealthCheck, assume, given, reject, settings
from hypothesis import strategies as st
from openpyxl import Workbook

from mockup.base.faults import FaultsError
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.formats.readings_in import readings_in
from mockup.formats.readings_out import length_cell, one_table, reading_tables
from mockup.formats.table import MOST_ROWS, Table, from_csv, to_csv
from mockup.formats.workbook import from_workbook, to_workbook
from mockup.quantity.fields import Measure, fields_of
from mockup.quantity.value import Unit
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Record
from mockup.readings.sweep import SweepReading
from tests.making import clay, deck, engine, inclined, job, short_eight, thou

MOCKED = replace(job(engine=engine(cylinders=6)), readings=())
TEXTS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Z")), max_size=20).map(str.strip)
LENGTHS = st.one_of(
    st.floats(0.01, 4.0), st.integers(1, 150).map(thou), st.integers(1, 400).map(lambda hundredths: hundredths / 100)
)


REFUSED_OFTEN = [HealthCheck.filter_too_much]
"""A kind refuses many figures that its fields could hold each by itself: others are drawn, and that is meant."""
BY_NAME = {
    "instrument": st.sampled_from(["bridge", "indicator", "caliper", "feelers"]),
    "mockup": st.just("A"),
    "cylinder": st.integers(1, 6),
    "after": st.integers(0, 3),
    # No u of a reading is over a millimetre: lengths of all sizes would mostly be refused.
    "u_mm": st.sampled_from([0.0, 0.0123, 0.0254, 0.5]),
}
BY_TYPE = {
    Record: st.builds(Record, typed=TEXTS, by=TEXTS, at=TEXTS, struck=TEXTS),
    Place: st.builds(Place, st.integers(1, 6), st.sampled_from(list(Side)), st.just(1)),
    bool: st.booleans(),
    float: st.one_of(st.floats(0.0, 9.0), st.integers(-40, 40).map(float)),
    str: TEXTS,
}


def values(held):
    """Anything a field of a reading may hold, as far as its kind alone says."""
    if held.name == "u_mm":
        return BY_NAME["u_mm"]
    if held.measure in (Measure.LENGTH, Measure.DECK):
        return LENGTHS
    if issubclass(held.holds, StrEnum):
        return st.sampled_from(list(held.holds))
    return BY_NAME[held.name] if held.name in BY_NAME else BY_TYPE[held.holds]


@st.composite
def readings(draw, kind=None, refused=reject):
    kind = kind or draw(st.sampled_from(list(READING_KINDS)))
    fields = {held.name: draw(values(held)) for held in fields_of(kind.core) if held.name != "key"}
    try:
        return kind.core(**fields)
    except FaultsError:
        return refused()


def numbered(found):
    return tuple(replace(reading, key=str(at)) for at, reading in enumerate(found))


def plain(found):
    """Readings without their own names in one book, kind by kind."""
    return sorted(repr(replace(reading, key="")) for reading in found)


@settings(max_examples=200, suppress_health_check=REFUSED_OFTEN)
@given(st.lists(readings(), min_size=1, max_size=6), st.sampled_from(list(Unit)))
def test_what_goes_out_comes_in_the_same_from_one_table_and_from_one_a_kind(found, unit):
    before = replace(MOCKED, unit=unit, readings=numbered(found))
    for tables in ([one_table(before)], reading_tables(before)):
        back = readings_in([from_csv(to_csv(table), table.name) for table in tables], before)
        assert back.is_whole, (back.faults, [row.faults for row in back.rows if row.faults])
        assert plain(back.readings) == plain(found)


@st.composite
def of_several_kinds(draw):
    """Readings of at least three kinds in one build, with up to three tries each."""
    tried = [draw(readings(kind, refused=lambda: None)) for kind in READING_KINDS for _ in range(3)]
    found = [reading for reading in tried if reading]
    assume(len({type(reading) for reading in found}) > 2)
    return found


@settings(max_examples=60, suppress_health_check=REFUSED_OFTEN)
@given(of_several_kinds(), st.sampled_from(list(Unit)))
def test_readings_of_several_kinds_at_once_come_in_as_they_went_out(found, unit):
    before = replace(MOCKED, unit=unit, readings=numbered(found))
    for tables in ([from_csv(to_csv(one_table(before)), "readings")], from_workbook(to_workbook(evaluate(before)))):
        back = readings_in(tables, before)
        assert back.is_whole, (back.faults, [row.faults for row in back.rows if row.faults])
        assert plain(back.readings) == plain(found)


@settings(max_examples=25, suppress_health_check=REFUSED_OFTEN)
@given(st.lists(readings(), min_size=1, max_size=5), st.sampled_from(list(Unit)))
def test_a_workbook_comes_in_as_it_went_out(found, unit):
    before = replace(MOCKED, unit=unit, readings=numbered(found))
    back = readings_in(from_workbook(to_workbook(evaluate(before))), before)
    assert back.is_whole, (back.faults, [row.faults for row in back.rows if row.faults])
    assert plain(back.readings) == plain(found)


@given(LENGTHS, st.sampled_from(list(Unit)))
def test_a_length_is_a_short_number_wherever_that_reads_back_the_same(mm, unit):
    assert len(length_cell(mm, unit)) < 30


def test_lengths_somebody_typed_stand_as_they_were_typed():
    assert length_cell(thou(112), Unit.INCH) == "0.112"
    assert length_cell(2.84, Unit.MILLIMETRE) == "2.84"
    assert length_cell(2.84, Unit.INCH) == "2.84 mm"


def read(text, name="", of=MOCKED):
    return readings_in([from_csv(text, name)], of)


@pytest.mark.parametrize(
    "text",
    [
        "cylinder,side,mockup,thickness (in)\n3,exhaust,A,0.112\n",
        "Thickness [thou];Mock-up;Cyl;In/Ex\n112;A;3;E\n",
        "where\tclay, mm\nE3\t2,8448\n".replace("clay, mm", "thickness (mm)\tmockup").replace("2,8448", "2,8448\tA"),
        "# read on Tuesday\n\nplace,reading,mockup,kind\nExhaust 3,0.112 in,A,clay\n",
        "\ufeffmockup,place,Thickness_mm\nA,3e,2.8448\n".replace("Thickness_mm", '"Thickness, mm"'),
    ],
)
def test_columns_are_understood_in_any_order_by_other_names_and_units(text):
    (reading,) = read(text, "clay").readings
    assert isinstance(reading, ClayReading)
    assert reading.place == Place(3, Side.EXHAUST)
    assert reading.thickness_mm == pytest.approx(thou(112), abs=1e-9)


@pytest.mark.parametrize(
    "above",
    [
        "Bittern, mock-up of 2 November\n\n",
        "sep=;\n",
        "Readings;of;the Bittern\nread by;Ottoline\n",
        "sep=;\r\nTitle;;\n",
    ],
)
def test_titles_and_a_separator_may_stand_above_the_headings(above):
    text = above + "place;mockup;thickness (thou)\nE3;a;112,5\nE9;A;1\n"
    good, bad = read(text).rows
    assert good.reading.thickness_mm == pytest.approx(thou(112.5))
    assert good.reading.mockup == "A", "a small letter is the same mock-up"
    assert bad.number == text.splitlines().index("E9;A;1") + 1, "rows are numbered as in the file"


@pytest.mark.parametrize("cell", ["1,104", "-2,000", "12,345"])
def test_what_could_be_thousands_is_asked_about(cell):
    (row,) = read(f"place;mockup;thickness (in)\nE3;A;{cell}\n").rows
    assert "is that" in row.faults[0].message
    assert cell.replace(",", ".") in row.faults[0].message
    (clear,) = read(f"place;mockup;thickness (in)\nE3;A;0,{cell[-3:]}\n").rows
    assert not clear.faults, "a nought before the comma settles it"


def test_a_separator_in_a_typed_text_parts_no_cells():
    table = from_csv('place,mockup,thickness (in),typed\nE3,A,0.112,"112; read twice; by lamp"\nE1,A,0.1,x\n', "clay")
    assert [row[3] for row in table.rows] == ["112; read twice; by lamp", "x"]


@pytest.mark.parametrize(
    ("cell", "mm"),
    [("0.006", 0.1524), ("-0.006", -0.1524), ("0.006 out", -0.1524), ("6 thou down", 0.1524), ("zero", 0), ("0", 0)],
)
def test_a_deck_says_its_way_by_sign_or_word(cell, mm):
    (reading,) = read(f"cylinder,clearance (in)\n2,{cell}\n").readings
    assert isinstance(reading, DeckReading)
    assert reading.clearance_mm == pytest.approx(mm)


def test_a_sweep_is_told_by_its_angle():
    (reading,) = read("place,mockup,crank deg,clearance (mm)\nI1,A,-9,2.5\n").readings
    assert isinstance(reading, SweepReading)
    assert (reading.crank_deg, reading.clearance_mm) == (-9, 2.5)


@pytest.mark.parametrize(
    ("text", "row", "column", "words"),
    [
        ("cylinder,clearance\n1,6\n", 2, "clearance", "give the unit"),
        ("cylinder,clearance (in)\n1,six\n", 2, "clearance (in)", "“six” is not a number"),
        ("cylinder,clearance (in)\n\n9,0.006\n", 3, "cylinder", "There is no cylinder 9"),
        ("cylinder,clearance (in)\n1.5,0.006\n", 2, "cylinder", "not a whole number"),
        ("kind,cylinder,clearance (in)\nfoam,1,0.006\n", 2, "kind", "There is no kind of reading called “foam”"),
        ("kind,cylinder,clearance (in),depth (mm)\ndeck,1,0.006,3\n", 2, "depth (mm)", "“3”: deck has no such column"),
        ("place,mockup,thickness (in)\nE1,Q,0.1\n", 2, "mockup", "There is no mock-up called Q"),
        ("place,mockup,thickness (in)\nX1,A,0.1\n", 2, "place", "intake or exhaust"),
        ("place,mockup,thickness (in)\nE1,A,1e5\n", 2, "thickness (in)", "Clay of 0 to 40 mm"),
        ("kind,cylinder,clearance (in)\ndeck,1,\n", 2, "clearance", "Deck requires it"),
        ("cylinder,clearance (in),spot\n1,0.006,pin\n", 2, "spot", "one of centre, over the pin"),
        ("cylinder,clearance (in),crank held\n1,0.006,maybe\n", 2, "crank held", "yes or no"),
        ("cylinder,clearance (in),instrument\n1,0.006,laser\n", 2, "instrument", "There is no instrument called laser"),
    ],
)
def test_what_is_not_understood_is_said_by_row_and_column(text, row, column, words):
    found = read(text)
    assert not found.is_whole
    (wrong,) = [line for line in found.rows if line.faults]
    assert wrong.number == row
    assert [fault.path for fault in wrong.faults] == [column]
    assert words in wrong.faults[0].message


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "The file is empty"),
        ("cylinder,cylinder,clearance (in)\n1,1,1\n", "Two columns are called “cylinder”"),
        ("apples,pears\n1,2\n", "The kind of reading cannot be told"),
        ("kind,colour\ndeck,red\n", "No reading has a column “colour”"),
        ("cylinder,clearance (in)\n1,0.006,7\n", "“7” has no heading above it"),
        ("cylinder,clearance (in)\n" + "1,0.006\n" * (MOST_ROWS + 1), "Split the file"),
        ("\n" * 1_900_000, "lines in one table"),
        ("\r" * 30_000, "lines in one table"),
        ("a\x00b\n", "NUL"),
        ('cylinder,"clearance\n1', "Not a table"),
    ],
)
def test_what_is_no_table_of_readings_is_said(text, words):
    try:
        faults = read(text).faults
    except FaultsError as error:
        faults = error.faults
    assert words in " ".join(fault.message for fault in faults)


@pytest.mark.parametrize("content", [b"", b"PK\x03\x04rubbish", b"cylinder,clearance\n1,2\n"])
def test_what_is_no_workbook_is_said(content):
    with pytest.raises(FaultsError, match="This workbook"):
        from_workbook(content)


def a_workbook(rows, columns, sheets=1):
    log = Workbook(write_only=True)
    for _ in range(sheets):
        limits = log.create_sheet()
        for _ in range(rows):
            limits.append([1] * columns)
    out = io.BytesIO()
    log.save(out)
    return out.getvalue()


@pytest.mark.parametrize("size", [(5_000, 40), (60, 60, 40), (4_000, 1, 8)])
def test_a_workbook_of_very_many_cells_is_refused_as_soon_as_that_is_seen(size):
    content = a_workbook(*size)
    with pytest.raises(FaultsError, match=r"cells in 20,000 rows|too large once"):
        from_workbook(content)


def test_a_workbook_of_very_many_texts_is_refused_before_they_are_read():
    packed, out = zipfile.ZipFile(io.BytesIO(a_workbook(1, 1))), io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bomb:
        for part in packed.infolist():
            bomb.writestr(part.filename, packed.read(part))
        bomb.writestr("xl/sharedStrings.xml", b"<sst>" + b"<si><t>a</t></si>" * 200_000 + b"</sst>")
    assert len(out.getvalue()) < 20_000
    with pytest.raises(FaultsError, match="too large when unpacked"):
        from_workbook(out.getvalue())


def test_a_formula_somebody_typed_stays_text():
    typed = replace(deck(1, 6), record=Record(typed='=HYPERLINK("x")', struck="+1"))
    before = replace(MOCKED, readings=(typed,))
    (back,) = readings_in(from_workbook(to_workbook(evaluate(before))), before).readings
    assert back.record == typed.record
    assert "'=HYPERLINK" in to_csv(one_table(before))


def test_many_valves_are_told_apart():
    several = replace(MOCKED, engine=engine(intake=inclined(0, count=2)))
    found = readings_in([Table("clay", ("place", "mockup", "reading"), (("Intake 2a", "A", "2 mm"),))], several)
    assert found.readings == [replace(clay(1, 2, number=1), key="", thickness_mm=2.0)]


def test_an_eight_goes_out_and_in_within_a_blink():
    before = short_eight()
    assert plain(readings_in([from_csv(to_csv(one_table(before)))], before).readings) == plain(before.readings)


def test_a_gap_in_words_and_a_gap_in_inches_stand_side_by_side_but_not_in_one_row():
    table = from_csv(
        "kind,cylinder,side,mockup,gap,gap (in),thickness (in),half width (in)\n"
        "clay,1,intake,A,radial,,0.060,\nvalve-gap,2,,A,,0.070,,0.001\n",
        "readings",
    )
    back = readings_in([table], MOCKED)
    assert back.is_whole, (back.faults, [row.faults for row in back.rows])
    assert [type(one).__name__ for one in back.readings] == ["ClayReading", "ValveGapReading"]
    both = from_csv("kind,cylinder,side,mockup,gap,gap (in),thickness (in)\nclay,1,intake,A,radial,0.07,0.060\n", "r")
    (row,) = readings_in([both], MOCKED).rows
    assert "two columns" in row.faults[0].message
