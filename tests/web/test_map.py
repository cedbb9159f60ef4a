"""The map's page, and the what-if that answers as it is typed."""

import json
from types import SimpleNamespace
from urllib.parse import parse_qs, urlsplit

import pytest
from django_scopes import scope

from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import gasket_of, page, shown
from web.builds import reports
from web.drawings import room_chart
from web.shelf.models import ShelfGasket

# The map


def test_it_draws_the_usual_two_or_those_asked_for(bench, carded):
    answer = page(bench, carded, name="explore")
    assert answer.context["names"] == ("cam", "gasket")
    assert "Gasket upward, against cam (+ advances) across" in words(answer), "a sign that has its meaning beside it"
    assert answer.context["chart"].contours
    other = page(bench, carded, "?across=rockers&up=relief-deeper-exhaust", "explore")
    assert other.context["names"] == ("rockers", "exhaust reliefs deeper")
    assert "Nearest clear point:" in words(other)


@pytest.mark.parametrize("query", ["?across=nonsense", "?across=cam&up=cam", "?up=", "?at=9-9", "?at=x-1&across=cam"])
def test_nonsense_in_the_address_draws_a_map_all_the_same(bench, carded, query):
    assert page(bench, carded, query, "explore").status_code in (200, 302)


def test_no_label_of_an_edge_lies_on_another():
    labels = ("Exhaust 1 lash", "Exhaust 6", "Quench 5", "Intake 1")
    edges = [SimpleNamespace(x=0.0, y=0.0, check=SimpleNamespace(label=label)) for label in labels]
    found = SimpleNamespace(edges=lambda: edges, x=[-1.0, 1.0], y=[-1.0, 1.0])
    placed = list(room_chart._setters(found, room_chart._Scale(found)))
    assert [one.words for one in placed] == list(labels)
    assert not any(room_chart._meet(one, by) for at, one in enumerate(placed) for by in placed[:at])
    assert all(room_chart.TOP < one.y < room_chart.BOTTOM for one in placed)


def test_a_point_that_is_picked_is_the_what_if(bench, carded):
    answer = page(bench, carded, "?across=gasket&up=relief-deeper-exhaust", "explore")
    data = json.loads(answer.context["chart"].data)
    column, row = 40, 30
    picked = page(bench, carded, f"?across=gasket&up=relief-deeper-exhaust&at={column}-{row}", "explore")
    assert picked.status_code == 302
    fields = parse_qs(urlsplit(picked.url).query)
    assert set(fields) == {"gasket_thick", "relief_exhaust"}
    tried = bench.get(picked.url)
    every = {now.label: now for _, now in tried.context["every"]}
    # What the map says is left there is what the what-if shows, to the tenth of a thou it was typed to.
    left = min(one.margin for one in every.values() if one.kind.is_length and one.margin is not None)
    assert float(data["left"][row][column].replace("−", "-")) == pytest.approx(left / thou(1), abs=0.15)
    assert page(bench, carded, "?across=gasket&up=relief-deeper-exhaust&at=999-0", "explore").status_code == 200


def test_without_a_lobe_or_a_reading_it_says_what_is_missing(bench, whole, built):
    assert "Nothing is judged yet" in words(page(bench, built, name="explore"))
    assert page(bench, whole, "?across=cam&up=rockers", "explore").status_code == 200


def test_the_nearest_leads_to_a_what_if_in_which_all_is_clear(bench, carded):
    answer = page(bench, carded, "?across=relief-deeper-intake&up=relief-deeper-exhaust", "explore")
    tried = bench.get(answer.context["nearest_address"])
    labels = {check.label for check in answer.context["report"].checks if check.figure and check.limit.is_set}
    states = {now.label: now.state for _, now in tried.context["every"] if now.label in labels}
    assert set(states.values()) == {"clear"}


# As it is typed


def live(client, built, query=""):
    return page(client, built, query, "tried")


def test_with_nothing_typed_it_shows_how_the_engine_stands(bench, carded):
    answer = live(bench, carded)
    assert "Now" in words(answer)
    assert {pair.label for pair in answer.context["stands"]} >= {"Intake", "Exhaust", "Quench"}
    assert "Now" in words(page(bench, carded))


def test_what_is_typed_is_shown_at_once_and_is_what_the_whole_page_shows(bench, carded):
    query = "?cam=-2&relief_exhaust=15"
    part, whole = live(bench, carded, query), page(bench, carded, query)
    assert shown(part) == shown(whole)
    assert "<html" not in part.content.decode()
    assert making.lines(carded, "change") == []


def test_what_is_wrong_stands_at_its_field_and_the_engine_as_it_stands_beside_it(bench, carded):
    answer = live(bench, carded, "?cam=fast&relief_exhaust=15")
    text = answer.content.decode()
    assert answer.status_code == 200
    assert text.count('hx-swap-oob="true"') == len(answer.context["form"].fields) + 1
    assert "number" in words(text.split('id="wrong-cam"')[1].split("</span>")[0])
    assert "Now" in words(answer)


def test_what_the_engine_could_not_be_is_said(bench, carded):
    answer = live(bench, carded, "?ratio=9")
    assert "Now" in words(answer)
    assert answer.context["form"].errors or answer.context["form"].non_field_errors()


def test_a_gasket_that_is_on_no_shelf_is_as_thick_as_it_is_typed(bench, carded):
    item = live(bench, carded, "?gasket_thick=45").context["form"].item
    assert item.changes[0].gasket.compressed_mm == pytest.approx(thou(45))
    with scope(shop=carded.shop):
        row = ShelfGasket.objects.get(pk=gasket_of(carded).pk)
    both = live(bench, carded, f"?gasket={row.pk}&gasket_thick=45")
    assert "Choose one of the two" in " ".join(both.context["form"].errors["gasket_thick"])
    assert "0.05 to 6" in str(live(bench, carded, "?gasket_thick=900").context["form"].errors)


def test_a_report_is_kept_while_nothing_is_written_and_made_anew_once_something_is(bench, carded, member, monkeypatch):
    made = []
    honest = reports.evaluate
    monkeypatch.setattr(reports, "evaluate", lambda job: made.append(1) or honest(job))
    live(bench, carded, "?cam=1")
    assert made == []  # evaluated when it was written
    reports._kept.clear()
    live(bench, carded, "?cam=1")
    live(bench, carded, "?cam=2")
    assert len(made) == 1
    before = live(bench, carded).context["stands"]
    making.write(carded, member, ClayReading(key="", mockup="A", place=Place(1, Side.INTAKE), thickness_mm=thou(70)))
    after = live(bench, carded).context["stands"]
    assert len(made) == 2
    assert before != after


def test_another_shop_has_neither(stranger, carded):
    assert page(stranger, carded, name="explore").status_code == 404
    assert live(stranger, carded).status_code == 404


def test_a_viewer_may_look_and_try(viewer, carded):
    assert live(viewer, carded, "?cam=2").status_code == 200
    assert page(viewer, carded, name="explore").status_code == 200
