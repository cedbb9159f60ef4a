"""Shelf, gasket, base shims, and the deck-height chart beside the maker's own."""

import pytest
from django.urls import reverse

from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.web.asking import text_of
from tests.web.forms import put


@pytest.fixture
def twin(member):
    """A flat twin with separate barrels, read on half a millimetre of shims."""
    built = making.build(
        member, unit="mm", layout="flat", separate_barrels=True, bore_mm=92.0, stroke_mm=78.0, rod_length_mm=131.0
    )
    making.write(built, member, *(DeckReading(key="", cylinder=c, clearance_mm=-0.1, shims_mm=0.5) for c in (1, 2)))
    return built


def stocked(bench):
    put(bench, gasket="1", name="ring", bore_mm="93", compressed_mm="1.15", free_mm="")
    for thickness in ("0.1", "0.25", "0.5"):
        put(bench, shim="1", thickness_mm=thickness, stock="4")


def test_the_shelf_keeps_what_is_put_on_it_and_lets_it_be_taken_off(bench, built):
    stocked(bench)
    shown = bench.get(reverse("shelf")).content.decode()
    assert "1.150 mm" in shown
    assert "0.250 mm" in shown
    put(bench, instrument="1", name="tenth bridge", use="bridge", resolution_mm="0.002", accuracy_mm="0.004")
    assert "tenth bridge" in text_of(bench, "deck", built)
    key = bench.get(reverse("shelf")).context["instruments"][0]["row"].pk
    bench.post(reverse("shelf"), {"off": f"instrument-{key}"})
    assert "tenth bridge" not in text_of(bench, "deck", built)


def test_what_was_read_with_an_instrument_keeps_its_figures_once_it_is_off_the_list(bench, built):
    put(bench, instrument="1", name="tenth bridge", use="bridge", resolution_mm="0.002", accuracy_mm="0.004")
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "5 down", "instrument": "own-1"})
    bench.post(
        reverse("shelf"), {"off": f"instrument-{bench.get(reverse('shelf')).context['instruments'][0]['row'].pk}"}
    )
    assert making.items(built, "deck")[0].instrument == "own-1"
    assert "tenth bridge" in text_of(bench, "deck", built)  # beside the reading, no longer in the list


@pytest.mark.parametrize(
    ("posted", "words"),
    [
        ({"gasket": "1", "name": "x", "bore_mm": "93", "compressed_mm": "9"}, "0.05 to 6 mm"),
        ({"gasket": "1", "name": "x", "bore_mm": "93", "compressed_mm": "1", "free_mm": "0.5"}, "at least as thick"),
        ({"shim": "1", "thickness_mm": "9", "stock": "1"}, "A shim of"),
        ({"shim": "1", "thickness_mm": "0.1", "stock": "0"}, "greater than or equal to 1"),
        ({"instrument": "1", "name": "x", "use": "bridge", "resolution_mm": "2", "accuracy_mm": "0"}, "From 0 to 1 mm"),
        ({"gasket": "1", "name": "x", "unit": "ell", "bore_mm": "93", "compressed_mm": "1"}, "valid choice"),
    ],
)
def test_what_cannot_be_on_a_shelf_is_refused_at_its_field(bench, posted, words):
    answer = put(bench, **posted)
    assert answer.status_code == 422
    assert words in answer.content.decode()


@pytest.mark.parametrize("key", ["gasket-9", "x-1", "gasket-" + "9" * 30, "", "shim-٣"])
def test_taking_off_what_is_not_there_is_404(bench, key):
    assert bench.post(reverse("shelf"), {"off": key}).status_code == 404


def test_another_shops_shelf_is_neither_seen_nor_touched(bench, stranger):
    stocked(bench)
    mine = bench.get(reverse("shelf")).context["gaskets"][0].pk
    assert not stranger.get(reverse("shelf")).context["gaskets"]
    assert stranger.post(reverse("shelf"), {"off": f"gasket-{mine}"}).status_code == 404


def test_a_gasket_is_taken_from_the_shelf_with_the_shims_it_wants(bench, twin):
    stocked(bench)
    for limit, value in (("quench_low", "0.9"), ("quench_high", "1.2")):
        bench.post(
            reverse("verdict", args=[twin.pk]), {"change": "1", "limit": limit, "length": value, "reason": "maker"}
        )
    shown = text_of(bench, "stack", twin)
    assert "inside the window" in shown
    ring = bench.get(reverse("shelf")).context["gaskets"][0].pk
    bench.post(reverse("stack", args=[twin.pk]), {"take": str(ring)})
    assert [gasket.name for gasket in making.items(twin, "gasket")] == ["ring"]
    assert [(s.cylinder, s.total_mm) for s in making.items(twin, "shims")] == [(1, 0.5), (2, 0.5)]
    assert bench.post(reverse("stack", args=[twin.pk]), {"take": "999"}).status_code == 404


def test_shims_are_typed_for_one_barrel_or_all(bench, twin):
    for posted in ({"total_mm": "0.5", "cylinder": ""}, {"total_mm": "0.6", "cylinder": "2"}):
        assert bench.post(reverse("stack", args=[twin.pk]), {"shims": "1"} | posted).status_code == 302
    assert "0.10 out" in text_of(bench, "deck", twin)
    assert "will be zero" in text_of(bench, "deck", twin)


def test_the_chart_marks_the_measured_barrels_and_says_what_is_missing(bench, twin):
    stocked(bench)
    assert "The chart needs" in text_of(bench, "deck-chart", twin)
    bench.post(reverse("stack", args=[twin.pk]), {"gasket": "1", "name": "", "compressed_mm": "1.15", "bore_mm": "93"})
    bench.post(reverse("volumes", args=[twin.pk]), {"chamber-all": "62", "piston-all": "dome 4"})
    shown = text_of(bench, "deck-chart", twin, targets="8.6, 9.2")
    assert "<b>barrel 1</b> <b>barrel 2</b>" in shown
    assert "for 8.60: shims" in shown
    for bad in ("x", "1", "9,9,9,9,9", "nan", "9" * 80):
        answer = bench.get(reverse("deck-chart", args=[twin.pk]), {"targets": bad})
        assert answer.status_code == 422
        assert "Up to 4 ratios" in answer.content.decode()


@pytest.fixture
def charted(bench, twin):
    """The twin with gasket and volumes, so that it has a chart."""
    stocked(bench)
    bench.post(reverse("stack", args=[twin.pk]), {"gasket": "1", "name": "", "compressed_mm": "1.15", "bore_mm": "93"})
    bench.post(reverse("volumes", args=[twin.pk]), {"chamber-all": "62", "piston-all": "dome 4"})
    return twin


def test_the_makers_chart_is_kept_and_stands_beside_ours(bench, charted):
    address = reverse("deck-chart", args=[charted.pk])
    typed = "0.65 out to 0.55 out: 0.60\n0.55 to 0.50 out\t0.25 + 0.20"
    assert bench.post(address, {"rows": typed}).status_code == 302
    (chart,) = making.items(charted, "makers-chart")
    assert [row.shims_mm for row in chart.rows] == pytest.approx([0.60, 0.45])
    answer = bench.get(address, {"targets": "9.2"})
    row = next(one for one in answer.context["chart"].rows if one.cylinders)
    assert row.makers.shims_mm == (0.60,)
    shown = answer.content.decode()
    assert "maker’s chart: shims" in shown
    assert "not on it" in shown
    assert "0.65 mm out to 0.55 mm out: 0.6 mm" in shown


def test_a_makers_chart_that_is_not_understood_says_its_line_and_loses_nothing(bench, charted):
    typed = "0.65 out: 0.60\n0.55 out 0.45"
    answer = bench.post(reverse("deck-chart", args=[charted.pk]), {"rows": typed})
    assert answer.status_code == 422
    assert "Line 2: Type a row as deck and shims" in answer.content.decode()
    assert "0.55 out 0.45</textarea>" in answer.content.decode()
    assert making.items(charted, "makers-chart") == []


def test_a_makers_chart_that_is_too_long_is_refused_whole(bench, charted):
    typed = "0.65 out: 0.60\n" + "\n" * 5000 + "0.55 out: 0.45"
    answer = bench.post(reverse("deck-chart", args=[charted.pk]), {"rows": typed})
    assert answer.status_code == 422
    assert "At most 5000 characters" in answer.content.decode()
    assert "0.55 out: 0.45</textarea>" in answer.content.decode()
    assert making.items(charted, "makers-chart") == []


def test_shims_that_are_not_on_the_shelf_are_typed_for_the_chart(bench, charted):
    address = reverse("deck-chart", args=[charted.pk])
    stacks = {
        shims: {cell.shims_mm for row in bench.get(address, {"targets": "9.2", "shims": shims}).context["chart"].rows
                for cell in row.cells}
        for shims in ("", "0.33 x 2; 0.07")
    }  # fmt: skip
    assert any(0.33 in (stack or ()) for stack in stacks["0.33 x 2; 0.07"])
    assert not any(0.33 in (stack or ()) for stack in stacks[""])
    refused = bench.get(address, {"shims": "thick"})
    assert refused.status_code == 422
    assert "Other shims: “thick” is not a length" in refused.content.decode()


def test_a_row_that_fails_the_quench_limits_is_not_recommended(bench, charted):
    for limit, value in (("quench_low", "0.3"), ("quench_high", "0.35")):
        posted = {"change": "1", "limit": limit, "length": value, "reason": "maker"}
        bench.post(reverse("verdict", args=[charted.pk]), posted)
    answer = bench.get(reverse("deck-chart", args=[charted.pk]), {"targets": "9.2"})
    cells = [row.cells[0] for row in answer.context["chart"].rows]
    assert all(cell.shims_mm is None or not cell.refused for cell in cells)
    assert any(cell.refused for cell in cells)
    assert "none inside the quench limits" in answer.content.decode()
