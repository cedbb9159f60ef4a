"""Marking a change done: the mock-up that proves it, what is stale, two people."""

import threading

import pytest
from django.db import connection
from django.urls import reverse
from django_scopes import scope

from mockup.base.faults import FaultsError
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, LASH_CHANGED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.readings.clay import ClayReading
from tests import making_rows as making
from tests.making import change, thou
from tests.web import words
from web.builds import services
from web.builds.assemble import assemble
from web.builds.entry_kinds import every_kind, words_of
from web.builds.models import Build, Entry, MockUp

THICK = FinalGasket(name="thick", compressed_mm=thou(51), bore_mm=97.0)
INTAKE = {"side": Side.INTAKE}


def decide_and_do(built, member, made):
    (entry,) = making.write(built, member, made)
    with scope(shop=built.shop):
        services.mark_done(built, entry, member)
        return entry, list(MockUp.objects.filter(build=built)), evaluate(assemble(built))


@pytest.mark.parametrize(
    ("made", "begins", "read_again"),
    [
        (change(DECK_CUT, 2, None), True, {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, QUENCH_CHECK, RATIO_CHECK}),
        (change(HEAD_CUT, 2, None), True, {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, RATIO_CHECK}),
        (change(GASKET_CHANGED, order=None, gasket=THICK), True, set()),
        (change(CAM_MOVED, 2.0, None), True, {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK}),
        (change(ROCKERS_CHANGED, 0.1, None), True, {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK}),
        (change(RELIEF_DEEPENED, 5, None, **INTAKE), True, {FACE_INTAKE_CHECK, RATIO_CHECK}),
        (change(RELIEF_WIDENED, 5, None, **INTAKE), True, set()),
        (change(VALVES_SUNK, 5, None, **INTAKE), True, {FACE_INTAKE_CHECK, RATIO_CHECK}),
        (change(VALVES_CHANGED, 10, None, **INTAKE), True, {FACE_INTAKE_CHECK}),
        # The ratio has no figure left that could be stale: the piston volume is void.
        (change(PISTONS_CHANGED, 2, None), True, {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, QUENCH_CHECK}),
        (change(LASH_CHANGED, 2, None, **INTAKE), False, set()),
    ],
    ids=lambda value: str(value.kind) if hasattr(value, "kind") else None,
)
def test_work_done_begins_the_mock_up_that_proves_it_and_makes_stale_what_it_touched(
    whole, member, made, begins, read_again
):
    _, mockups, report = decide_and_do(whole, member, made)
    assert [one.letter for one in mockups] == (["A", "B"] if begins else ["A"])
    assert {check.kind for check in report.checks if check.read_again} == read_again
    if made.gasket:
        assert mockups[-1].core.gasket_mm == made.gasket.compressed_mm
    if made.kind is CAM_MOVED:
        assert not mockups[-1].core.wheel_checked


def test_a_mock_up_nothing_was_read_under_serves_the_next_work_too(whole, member):
    _, mockups, _ = decide_and_do(whole, member, change(CAM_MOVED, 2.0, None))
    _, again, _ = decide_and_do(whole, member, change(RELIEF_DEEPENED, 5, None, **INTAKE))
    assert [one.letter for one in again] == [one.letter for one in mockups] == ["A", "B"]
    making.write(whole, member, ClayReading(key="", mockup="B", place=Place(1, Side.INTAKE), thickness_mm=thou(96)))
    _, third, _ = decide_and_do(whole, member, change(HEAD_CUT, 2, None))
    assert [one.letter for one in third] == ["A", "B", "C"]


def test_a_mark_struck_out_leaves_the_engine_as_it_was_read(whole, member):
    with scope(shop=whole.shop):
        before = evaluate(assemble(whole))
    _, _, changed = decide_and_do(whole, member, change(HEAD_CUT, 10, None))
    mark = making.lines(whole, "done")[0]
    with scope(shop=whole.shop):
        services.strike(mark, member, "other head")
        after = evaluate(assemble(whole))
    figures = [[(check.label, check.figure, check.state) for check in one.checks] for one in (before, changed, after)]
    assert figures[0] == figures[2] != figures[1]


def test_what_no_engine_can_be_is_not_marked_done_and_the_page_says_why(bench, whole, member):
    built = making.write(whole, member, *(change(ROCKERS_CHANGED, 0.9, None) for _ in range(3)))
    address = reverse("put-right", args=[whole.pk])
    answers = [bench.post(address, {"done": entry.key}) for entry in built]
    assert [answer.status_code for answer in answers] == [302, 302, 422]  # 1.9, 2.8; nobody makes rockers of 3.7
    assert "A ratio of 1 to 3" in words(answers[2])
    assert len(making.lines(whole, "done")) == 2


def test_only_a_decided_change_is_done(whole, member):
    reading = making.lines(whole, "deck")[0]
    with scope(shop=whole.shop), pytest.raises(FaultsError, match="Only a decided change"):
        services.mark_done(whole, reading, member)


@pytest.mark.django_db(transaction=True)
def test_two_people_who_mark_one_change_done_at_once_do_it_once():
    by = making.person()
    built = making.read_build(by)
    (entry,) = making.write(built, by, change(CAM_MOVED, 2.0, None))
    start, failures = threading.Barrier(2), []

    def one():
        try:
            start.wait(10)
            with scope(shop=built.shop):
                services.mark_done(built, entry, by)
        except Exception as error:  # noqa: BLE001 - what goes wrong in a thread must be told to the test
            failures.append(error)
        finally:
            connection.close()

    hands = [threading.Thread(target=one) for _ in range(2)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(20)
    assert failures == []
    assert len(making.lines(built, "done")) == 1
    with scope(shop=built.shop):
        assert [one.letter for one in MockUp.objects.filter(build=built)] == ["A", "B"]


def test_an_engine_keeps_what_its_readings_need(bench, whole, member):
    making.write(whole, member, change(DECK_CUT, 2, None))
    with scope(shop=whole.shop):
        with pytest.raises(FaultsError, match="Cylinder 2 has readings"):
            making.save(Build.objects.get(pk=whole.pk), member, cylinders=1)
        wider = making.save(Build.objects.get(pk=whole.pk), member, intake_count=2)
    making.write(wider, member, ClayReading(key="", mockup="A", place=Place(1, Side.INTAKE, 2), thickness_mm=thou(96)))
    with scope(shop=whole.shop), pytest.raises(FaultsError, match="readings of intake valve 2"):
        making.save(Build.objects.get(pk=whole.pk), member, intake_count=1)
    with scope(shop=whole.shop):
        assert (
            Build.objects.get(pk=whole.pk).engine.cylinders,
            Build.objects.get(pk=whole.pk).engine.intake.count,
        ) == (2, 2)


def test_every_kind_of_entry_has_its_words_in_the_history(bench, whole, member):
    assert len({words_of(kind) for kind in every_kind()}) == len(every_kind())
    decide_and_do(whole, member, change(RELIEF_DEEPENED, 5, None, **INTAKE))
    lines = bench.get(reverse("history", args=[whole.pk])).context["lines"]
    assert {"decided", "done", "clay", "deck", "volume", "final gasket", "mock-up saved"} <= {one.kind for one in lines}
    assert all(one.by and one.at and (one.what or one.kind == "mock-up saved") for one in lines)
    with scope(shop=whole.shop):
        assert len(lines) == Entry.objects.filter(build=whole).count() + MockUp.objects.filter(build=whole).count()
