"""The verdict as a table: every check in its cell, the worst one open."""

from django.urls import reverse

from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import page, post


def table(client, built, query=""):
    return page(client, built, query, "verdict").context["matrix"]


def cells(found):
    return {cell.key: cell for row in found.rows for cell in row.cells if cell}


def test_every_check_has_its_cell_with_figure_u_state_and_bar(bench, whole):
    found = table(bench, whole)
    report = page(bench, whole, name="verdict").context["report"]
    assert page(bench, whole, name="verdict").context["worst_tone"] == "clear"
    assert set(cells(found)) == {check.label.lower().replace(" ", "-") for check in report.checks}
    one = cells(found)["intake-1"]
    assert (one.figure, one.u, one.tone) == ("95", "8.5", "clear")
    assert one.says == "Intake 1: 95 ±8.5, clear"
    assert one.bar.from_x < one.bar.x < one.bar.to_x
    assert one.bar.low_x < one.bar.from_x, "clear: the limit lies left of all of U"


def test_rows_are_kinds_by_valve_and_columns_are_cylinders(bench, member):
    built = making.read_build(member, cylinders=4, valves=2)
    found = table(bench, built)
    assert found.columns == (1, 2, 3, 4)
    assert [row.label for row in found.rows][:4] == ["Intake a", "Intake b", "Exhaust a", "Exhaust b"]
    assert all(len(row.cells) == 4 for row in found.rows)
    anchors = [row.anchor for row in found.rows if row.anchor]
    assert len(anchors) == len(set(anchors))
    assert "exhaust-face" in anchors


def test_the_worst_is_opened_and_another_on_asking(bench, carded):
    answer = page(bench, carded, name="verdict")
    assert answer.context["matrix"].chosen.label == "Exhaust 2"
    assert 'id="check-exhaust-2"' in answer.content.decode()
    assert 'id="check-intake-1"' not in answer.content.decode()
    other = page(bench, carded, "?check=intake-1", "verdict")
    assert other.context["matrix"].chosen.label == "Intake 1"
    assert 'id="check-intake-1"' in other.content.decode()
    assert table(bench, carded, "?check=nonsense").chosen.label == "Exhaust 2"


def test_what_is_not_clear_is_named_above_with_the_way_to_it(bench, carded):
    said = words(page(bench, carded, name="verdict"))
    assert "Exhaust 2 −12" in said
    assert "?check=exhaust-2#opened" in page(bench, carded, name="verdict").content.decode()


def test_what_is_only_inferred_stands_in_brackets_and_what_nobody_asked_for_says_so(bench, member):
    built = making.build(member, cylinders=4)
    making.mockup(built, member)
    making.write(
        built,
        member,
        making.FinalGasket(compressed_mm=thou(36), bore_mm=97.0),
        *(DeckReading(key="", cylinder=n, clearance_mm=thou(5)) for n in (1, 2)),
        *(ClayReading(key="", mockup="A", place=Place(n, Side.INTAKE), thickness_mm=thou(95)) for n in (1, 4)),
    )
    found = cells(table(bench, built))
    assert found["intake-2"].figure.startswith("(")
    assert found["intake-2"].note == "by its deck"
    assert found["intake-3"].note in ("not read", "not asked")


def test_an_engine_of_twelve_by_four_stands_in_one_table(bench, member):
    built = making.read_build(member, cylinders=12, valves=2)
    found = table(bench, built)
    assert found.narrow
    assert len(found.columns) == 12
    assert all(len(row.cells) == 12 for row in found.rows)


def test_a_bare_build_says_so_in_every_cell(bench, built):
    answer = page(bench, built, name="verdict")
    assert answer.status_code == 200
    assert {cell.note for cell in cells(answer.context["matrix"]).values()} <= {"not read", "not asked"}


def test_one_reading_that_is_clear_does_not_make_the_mark_of_the_build_green(bench, built, member):
    making.mockup(built, member, bolts="torqued")
    making.write(
        built,
        member,
        making.FinalGasket(compressed_mm=thou(36), bore_mm=97.0),
        ClayReading(key="", mockup="A", place=Place(1, Side.INTAKE), thickness_mm=thou(250)),
    )
    context = page(bench, built, name="verdict").context
    assert context["verdict_words"].startswith("Unfinished: 1 of")
    assert context["worst_tone"] == "none"


def test_what_is_signed_off_keeps_its_figure_and_says_so(bench, carded, member):
    post(bench, carded, "verdict", sign="Exhaust 2", reason="the maker says 80")
    cell = cells(table(bench, carded))["exhaust-2"]
    assert cell.signed
    assert cell.says.endswith("signed off")
    assert making.lines(carded, "sign-off")


def test_the_strip_leads_to_the_row_of_its_kind(bench, whole):
    text = page(bench, whole, name="verdict").content.decode()
    address = reverse("verdict", args=[whole.pk])
    for name in ("intake-face", "exhaust-face", "quench", "compression-ratio"):
        assert f'href="{address}#{name}"' in text
        assert f'id="{name}"' in text


def test_a_figure_in_question_is_not_clear_and_says_which_question(bench, member):
    built = making.build(member, cylinders=4)
    making.mockup(built, member, bolts="torqued")
    making.write(built, member, FinalGasket(compressed_mm=thou(36), bore_mm=97.0))
    for cylinder, intake in enumerate((95, 96, 160, 95), 1):
        read = ((Side.INTAKE, intake), (Side.EXHAUST, 115))
        clay = (ClayReading(key="", mockup="A", place=Place(cylinder, side), thickness_mm=thou(t)) for side, t in read)
        making.write(built, member, DeckReading(key="", cylinder=cylinder, clearance_mm=thou(4)), *clay)
    answer = page(bench, built, "?check=intake-3", "verdict")
    said = words(answer)
    assert "Not clear: Intake 3" in said
    assert "in question" in said
    assert "Intake 3: 160, its sisters" in said
    assert cells(answer.context["matrix"])["intake-3"].tone == "close"
    assert "Intake 3: 160, its sisters" in words(page(bench, built, "?cylinder=3", "clay"))
