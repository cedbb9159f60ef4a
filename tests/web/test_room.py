"""The page of room to move: bars, what sets their ends, the nearest clear amount."""

import re

from tests import making_rows as making
from tests.web import words
from tests.web.asking import page


def test_each_lever_has_its_bar_and_says_what_sets_its_ends(bench, whole):
    answer = page(bench, whole, name="explore")
    said = words(answer)
    assert "Gasket" in said
    assert re.search(r"limited by (Intake|Exhaust|Quench|Ratio) \d", said)
    bars = answer.context["bars"]
    assert len(bars) > 4
    assert all(0 <= bar.left <= 370 and 0 <= bar.width <= 360.1 for bar in bars)


def test_without_a_lobe_it_says_what_is_missing(bench, whole):
    said = words(page(bench, whole, name="explore"))
    assert "more lift at the valve keeps all clear" in said or "It allows no more lift" in said
    assert "only a lobe tells" in said


def test_with_a_card_the_first_line_answers_how_much_more_it_could_run(bench, carded):
    answer = page(bench, carded, name="explore")
    assert [bar.words for bar in answer.context["bars"]][:2] == ["Lift at equal duration", "Duration at equal lift"]
    first = answer.context["first"]
    assert first.startswith("It allows ")


def test_a_bare_build_says_what_to_read_first(bench, built):
    assert "Nothing is judged yet" in words(page(bench, built, name="explore"))


def test_what_is_short_leads_to_the_nearest_clear_as_a_what_if(bench, carded):
    bars = page(bench, carded, name="explore").context["bars"]
    bar = next(bar for bar in bars if bar.address)
    assert "is not clear now; clear from" in bar.says
    tried = bench.get(bar.address)
    assert tried.status_code == 200
    assert "Nothing is changed yet" not in words(tried)


def test_another_shop_has_no_room_of_it(stranger, whole):
    assert page(stranger, whole, name="explore").status_code == 404
    assert making.lines(whole, "deck")
