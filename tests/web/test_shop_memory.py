"""What the shop remembers over its builds: repeats, parts, engines alike."""

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.memory.shop_memory import facts_of
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import clay, thou
from tests.web import words
from tests.web.asking import page, post, taken_in
from web.builds.assemble import assemble
from web.builds.models import Summary


@pytest.fixture
def many(member):
    """Eight builds of one engine with both cylinders' valves read, parts 2 thou apart."""
    found = []
    for number in range(8):
        built = making.build(member, name=f"Dabchick {number}")
        making.mockup(built, member)
        decks = [DeckReading(key="", cylinder=at, clearance_mm=thou(5)) for at in (1, 2) for _ in range(2)]
        slices = [clay(95 + 2 * at, at, side) for at in (1, 2) for side in Side]
        making.write(built, member, FinalGasket(compressed_mm=thou(36), bore_mm=97.0), *decks, *slices)
        found.append(built)
    return found


def test_the_summary_keeps_what_evaluate_says(member, many):
    with scope(shop=member.shop):
        kept = Summary.objects.get(build=many[0])
        report = evaluate(assemble(many[0]))
    assert kept.facts == facts_of(report)
    assert (kept.cylinders, kept.bore_mm) == (2, report.job.engine.bore_mm)
    assert kept.part_freedom == 2


def test_how_instruments_repeat_is_told_from_all_the_books(bench, stranger, member, many):
    said = words(bench.get(reverse("memory")))
    assert "8 builds" not in said
    # 16 decks were read twice, and alike; what the bridge is said to repeat within, 0.5 thou, weighs four readings.
    assert f"{member.shown_name} 0.0002 in · 0.006 mm (16)" in said
    assert "Nothing was read twice yet" in words(stranger.get(reverse("memory")))


def test_the_scatter_of_parts_is_offered_from_the_others_and_counted_with_once_chosen(bench, member, many):
    last = many[-1]
    at = reverse("alike", args=[last.pk])
    assert "14 comparisons" in words(bench.get(at)), "seven other builds, two sides, two cylinders"
    assert bench.post(at, {"parts": "1"}).status_code == 302
    with scope(shop=member.shop):
        job = assemble(last)
    # Two cylinders 2 thou apart: a variance of half of that squared; four degrees of the usual 0.05 mm beside it.
    expected = ((4 * 0.05**2 + 14 * thou(2) ** 2 / 2) / 18) ** 0.5
    assert job.parts_differ.u_mm == pytest.approx(expected, abs=1e-4)
    assert "from 14 comparisons in the shop’s other engines" in words(bench.get(at))
    assert "parts differ by" in words(page(bench, last, name="history"))
    exported = bench.get(reverse("export", args=[last.pk])).content
    assert "parts_differ" in exported.decode()
    assert taken_in(bench, exported).status_code == 302


def test_of_too_few_comparisons_nothing_is_offered(bench, whole):
    assert "too few to tell" in words(page(bench, whole, name="alike"))
    assert post(bench, whole, "alike", parts="1").status_code == 404


def test_engines_alike_are_those_of_this_size_in_this_shop(bench, member, many):
    with scope(shop=member.shop):
        making.save(many[1], member, bore_mm=many[1].engine.bore_mm * 1.02)
        making.save(many[2], member, bore_mm=many[2].engine.bore_mm * 1.005)
    making.build(making.person("other", shop_name="Elsewhere"), name="Somebody else’s")
    said = words(page(bench, many[0], name="alike"))
    assert "Dabchick 2" in said
    assert "Dabchick 1 " not in said
    assert "Somebody else" not in said
    assert "5 down" in said


def test_two_builds_stand_side_by_side_with_what_is_between_them(bench, member, many, whole):
    with scope(shop=member.shop):
        making.write(many[1], member, clay(80, 1, Side.INTAKE))
    answer = bench.get(reverse("beside", args=[many[0].pk, many[1].pk]))
    said = words(answer)
    assert "Dabchick 0 beside Dabchick 1" in said
    (line,) = [line for line in answer.context["checks"] if line.label == "Intake 1"]
    assert line.between == "−17"
    assert bench.get(reverse("beside", args=[many[0].pk, whole.pk])).status_code == 200


def test_another_shops_build_stands_beside_nothing(stranger, bench, many, member):
    theirs = making.build(making.person("other", shop_name="Elsewhere"))
    assert bench.get(reverse("beside", args=[many[0].pk, theirs.pk])).status_code == 404
    assert stranger.get(reverse("beside", args=[many[0].pk, many[1].pk])).status_code == 404
    assert stranger.get(reverse("alike", args=[many[0].pk])).status_code == 404
