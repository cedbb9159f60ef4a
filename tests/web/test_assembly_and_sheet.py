"""Signing, the assembly list, the history, the sheet and its PDF, the copy."""

import re

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.train import CAM_MOVED
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.sweep import SweepReading
from mockup.report import Verdict
from tests import making_rows as making
from tests.making import CARD, thou
from tests.web import words
from tests.web.asking import unpacked
from web.builds.models import Build, Entry
from web.drawings.paint import STYLE_FOLDER, painted
from web.shops.models import Person


@pytest.fixture
def short(whole, member):
    """The whole build with exhaust 2 short."""
    making.write(whole, member, ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(92)))
    return whole


def page(client, built, name, query=""):
    return client.get(reverse(name, args=[built.pk]) + query)


def post(client, built, at, /, **fields):
    return client.post(reverse(at, args=[built.pk]), fields)


def test_the_verdict_says_what_each_figure_rests_on_and_what_is_still_to_do_in_order(bench, short):
    answer = page(bench, short, "verdict")
    assert answer.context["evidence"]["Exhaust 2"].startswith("typed, typed, typed, typed; clementine, 20")
    assert [step.text for step, _ in answer.context["steps"]] == [step.text for step in answer.context["report"].steps]
    assert "Rests on" in words(answer)


# --- signing a check -------------------------------------------------------------------------------------------------


def test_a_short_check_is_signed_off_by_name_with_a_reason_and_shown_everywhere(bench, short):
    assert post(bench, short, "verdict", sign="Exhaust 2", reason="cam maker says 80").status_code == 302
    answer = page(bench, short, "verdict")
    assert answer.context["report"].verdict is Verdict.SIGNED
    for name in ("verdict", "assembly", "sheet"):
        assert "cam maker says 80" in words(page(bench, short, name)), name
    assert "signed off" in words(page(bench, short, "deck"))


def test_nobody_signs_without_a_reason_or_what_is_not_there(bench, short):
    answer = post(bench, short, "verdict", sign="Exhaust 2", reason=" ")
    assert answer.status_code == 422
    assert "Give the reason" in words(answer)
    assert post(bench, short, "verdict", sign="Exhaust 9", reason="x").status_code == 404
    assert making.lines(short, "sign-off") == []


def test_a_signature_is_struck_out_and_lapses_with_its_figure(bench, short, member):
    post(bench, short, "verdict", sign="Exhaust 2", reason="cam maker says 80")
    row = making.lines(short, "sign-off")[0]
    reading = ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(91))
    entry = making.write(short, member, reading)[0]
    answer = page(bench, short, "verdict")
    assert answer.context["report"].verdict is Verdict.NOT_CLEAR
    assert "Signed off for another figure" in words(answer)
    post(bench, short, "clay", strike=entry.key, reason="dented by the caliper")
    assert page(bench, short, "verdict").context["report"].verdict is Verdict.SIGNED
    assert "Give the reason" in words(post(bench, short, "verdict", strike=row.key, reason=""))
    post(bench, short, "verdict", strike=row.key, reason="not mine to sign")
    assert page(bench, short, "verdict").context["report"].verdict is Verdict.NOT_CLEAR


# --- the list and the build's signature ------------------------------------------------------------------------------


def test_lines_are_ticked_reworded_left_out_put_back_and_added(bench, whole):
    def lines():
        return {line.key: line for line in page(bench, whole, "assembly").context["lines"]}

    assert {"clay", "springs", "gasket"} <= set(lines())
    post(bench, whole, "assembly", tick="clay")
    assert lines()["clay"].done
    post(bench, whole, "assembly", untick="clay")
    assert not lines()["clay"].done
    post(bench, whole, "assembly", reword="clay", words="Clay out, ring lands blown through.")
    assert lines()["clay"].words == "Clay out, ring lands blown through."
    post(bench, whole, "assembly", leave="springs")
    assert "springs" not in lines()
    post(bench, whole, "assembly", back="springs")
    assert "springs" in lines()
    post(bench, whole, "assembly", add="1", words="Oil pump primed.")
    own = [line for line in lines().values() if line.why == "added"]
    assert [line.words for line in own] == ["Oil pump primed."]
    assert "Clay out, ring lands blown through." in words(page(bench, whole, "sheet"))


@pytest.mark.parametrize(
    ("fields", "status"),
    [
        ({"add": "1", "words": " "}, 422),
        ({"add": "1", "words": "x" * 201}, 422),
        ({"reword": "clay", "words": ""}, 422),
        ({"tick": "nothing"}, 404),
        ({"x": "1"}, 404),
        ({"copy": "1", "name": " "}, 422),
        ({"sign": "1", "note": "x" * 201}, 422),
    ],
)
def test_what_cannot_be_written_into_the_list_is_refused(bench, whole, fields, status):
    assert post(bench, whole, "assembly", **fields).status_code == status
    assert making.lines(whole, "assembly") == []


def test_a_clear_build_is_signed_and_the_signature_says_when_the_build_became_another(bench, whole, member):
    asked = post(bench, whole, "assembly", sign="1", note="ready for Friday")
    assert asked.status_code == 422
    assert "Still open: Clay cleaned off crowns" in words(asked)
    assert 'value="ready for Friday"' in asked.content.decode()  # nothing typed is lost
    still_open = asked.context["still_open"]
    # All but one answered for is not all of them; what is ticked needs no answer.
    some = [line.key for line in still_open[1:]]
    assert post(bench, whole, "assembly", sign="1", open=some, note="ready for Friday").status_code == 422
    assert making.lines(whole, "signature") == []
    post(bench, whole, "assembly", tick=still_open[0].key)
    assert post(bench, whole, "assembly", sign="1", open=some, note="ready for Friday").status_code == 302
    assert still_open[1].words in words(page(bench, whole, "sheet"))
    assert still_open[0].words not in page(bench, whole, "assembly").context["signed"][0].still_open
    assert page(bench, whole, "assembly").context["signed"][0].holds
    assert "ready for Friday" in words(page(bench, whole, "sheet"))
    making.write(whole, member, ClayReading(key="", mockup="A", place=Place(1, Side.INTAKE), thickness_mm=thou(90)))
    answer = page(bench, whole, "assembly")
    assert not answer.context["signed"][0].holds
    assert "Signed before the build was changed" in words(answer)
    assert "Give the reason" in words(post(bench, whole, "assembly", strike=answer.context["signed"][0].key, reason=""))
    post(bench, whole, "assembly", strike=answer.context["signed"][0].key, reason="signed too soon")
    assert page(bench, whole, "assembly").context["signed"] == []


def test_a_build_that_is_not_clear_cannot_be_signed(bench, short):
    answer = post(bench, short, "assembly", sign="1", note="hurry")
    assert answer.status_code == 422
    assert "It cannot be signed" in words(answer)


# --- history and copy ------------------------------------------------------------------------------------------------


def test_the_history_tells_who_read_struck_changed_and_signed(bench, short, member):
    post(bench, short, "verdict", sign="Exhaust 2", reason="cam maker says 80")
    post(bench, short, "verdict", choose="1", limits="careful")
    entry = making.lines(short, "deck")[0]
    post(bench, short, "deck", strike=entry.key, reason="rod moved")
    making.write(short, member, Change(key="", kind=HEAD_CUT, front_mm=0.1, rear_mm=0.1))
    text = words(page(bench, short, "history"))
    for said in ("signed off", "Exhaust 2, too close to call: cam maker says 80", "limits street → careful",
                 "rod moved", "head cut 3.9 thou", "mock-up saved", "clementine"):  # fmt: skip
        assert said in text, said
    swept(short, member)
    assert "Intake 1 mock-up A 10 ATDC typed" in words(page(bench, short, "history"))
    gathered = [line for line in page(bench, short, "sheet").context["readings"] if line.kind == "indicator"]
    assert [line.what for line in gathered] == ["TDC typed; 5 ATDC typed; 10 ATDC typed; 15 ATDC typed"]
    only = page(bench, short, "history", "?only=struck").context["lines"]
    assert [line.kind for line in only] == ["deck"]
    assert all(line.is_reading for line in page(bench, short, "history", "?only=readings").context["lines"])


def test_the_next_build_begins_with_the_block_and_without_cam_and_clearances(bench, short, member):
    cut = making.write(
        short, member, Change(key="", kind=DECK_CUT, front_mm=thou(1), rear_mm=thou(1)), CARD,
        Change(key="", kind=CAM_MOVED, amount=2.0),
    )  # fmt: skip
    for row in (cut[0], cut[2]):
        post(bench, short, "put-right", done=row.key)
    answer = post(bench, short, "assembly", copy="1", name="Bittern again")
    with scope(shop=short.shop):
        fresh = Build.objects.get(name="Bittern again")
        kinds = set(Entry.objects.filter(build=fresh).values_list("kind", flat=True))
    assert answer.url == reverse("block", args=[fresh.pk])
    assert kinds == {"deck", "volume", "gasket", "change", "done", "copied"}
    job = page(bench, fresh, "verdict").context["report"].job
    assert [change.kind for change in job.changes] == [DECK_CUT]
    assert (job.of(ClayReading), job.mockups, job.cam_card) == ((), (), None)
    assert job.of(DeckReading)[0].record.by == "clementine"
    assert page(bench, fresh, "verdict").context["report"].deck[1].carried
    assert "begun as a copy" in words(page(bench, fresh, "history"))


# --- the sheet and its PDF -------------------------------------------------------------------------------------------


def test_the_sheet_holds_the_verdict_the_trails_the_readings_and_the_list(bench, whole):
    text = words(page(bench, whole, "sheet"))
    for said in ("required check is clear: 6 of 6.", "as it will run", "Exhaust 2", "deck", "clay", "Final assembly",
                 "gasket 36 compressed", "A passed check is no warranty",
                 "Saltmarsh · made by clementine, 20", "dish 5.0 cc"):  # fmt: skip
        assert said in text, said


def swept(built, member):
    readings = [
        SweepReading(key="", mockup="A", place=Place(1, Side.INTAKE), crank_deg=at, clearance_mm=thou(mm))
        for at, mm in ((0.0, 110), (5.0, 98), (10.0, 96), (15.0, 105))
    ]
    making.write(built, member, *readings)


def test_the_pdf_is_one_with_the_fonts_that_ship_and_fetches_nothing(bench, whole, member):
    swept(whole, member)
    answer = page(bench, whole, "sheet-pdf")
    assert answer["Content-Type"] == "application/pdf"
    assert answer["Content-Disposition"] == 'inline; filename="bittern.pdf"'
    assert answer.content.startswith(b"%PDF-")
    inside = unpacked(answer.content)
    assert b"Barlow-SC" in inside
    assert b"B612" in inside


def test_a_pdf_comes_of_a_build_just_begun_and_of_a_name_full_of_marks(bench, member):
    odd = making.build(member, name='<b>&"Ø —')
    assert page(bench, odd, "sheet-pdf").content.startswith(b"%PDF-")
    assert "&lt;b&gt;" in page(bench, odd, "sheet").content.decode()


def test_drawings_in_the_pdf_carry_their_own_colours(bench, whole, member):
    swept(whole, member)
    html = page(bench, whole, "sheet").content.decode()
    found = re.findall(r"<svg.*?</svg>", painted(html, STYLE_FOLDER), re.DOTALL)
    approach = next(one for one in found if 'class="approach"' in one)
    assert 'stroke="#0c5f69"' in approach
    assert "var(" not in " ".join(re.findall(r'(?:fill|stroke|font-family)="([^"]*)"', approach))


def test_another_shop_can_neither_copy_nor_sign(short, stranger):
    for fields in ({"copy": "1", "name": "mine"}, {"sign": "1"}, {"tick": "clay"}):
        assert post(stranger, short, "assembly", **fields).status_code == 404
    with scope(shop=Person.objects.get(username="stranger").shop):
        assert not Build.objects.exists()


def test_edits_of_the_engine_are_written_into_the_book_only_where_something_changed(bench, whole, member):
    with scope(shop=whole.shop):
        making.save(whole, member, cylinders=2, bore_mm=95.25)
        making.save(whole, member, rocker_ratio=1.6)
    rows = making.lines(whole, "edited")
    assert [row.data["changes"] for row in rows] == [[["rocker_ratio", "1.0", "1.6"]]]
    assert page(bench, whole, "verdict").context["report"].of_kind(FACE_INTAKE_CHECK)[0].figure


@pytest.mark.parametrize("name", ["sheet", "sheet-pdf", "export"])
def test_what_leaves_the_shop_is_kept_by_no_cache(bench, whole, name):
    assert "no-store" in bench.get(reverse(name, args=[whole.pk])).headers["Cache-Control"]
