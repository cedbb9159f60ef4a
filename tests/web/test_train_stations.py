"""The cam, pushrod and mock-up stations through the pages."""

import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from mockup.engine.valves import Side
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import taken_in
from tests.web.forms import CARD, MOCKUP

HTMX = {"headers": {"HX-Request": "true"}}
ANGLES = {"degree": "1", "side": "intake", "wheel_set": "yes", "lift_mm": "200"}
TABLE = "angle\tlift (mm)\n" + "".join(
    f"{a}\t{max(9 * (1 - (a / 120) ** 2) ** 3, 0):.3f}\n" for a in range(-130, 131, 10)
)
LOBE = {"lobe": "1", "side": "intake", "at": "lobe", "degrees": "crank", "zero": "centreline", "table": TABLE}


def post(client, name, built, posted, **more):
    return client.post(reverse(name, args=[built.pk]), posted, **more)


def page(client, name, built, **query):
    return client.get(reverse(name, args=[built.pk]), query).content.decode()


def test_a_card_is_written_down_drawn_as_an_estimate_and_degreed(bench, built):
    assert post(bench, "cam", built, CARD).status_code == 302
    shown = page(bench, "cam", built)
    assert 'class="lift estimate"' in shown
    assert "by its card, not degreed" in shown
    post(bench, "cam", built, ANGLES | {"opening_deg": "70 ATDC", "closing_deg": "146 ATDC"})
    shown = page(bench, "cam", built)
    assert "ICL 108.0 ATDC" in shown
    assert "2° retarded against its card" in shown
    assert 'value="0.3 in"' in page(bench, "cam", built, card="1")  # the form shows the card as it stands


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"icl_deg": ""}, "Give the intake centreline"),
        ({"intake_at_2": ""}, "needs its checking lift"),
        ({"intake_duration_1": "200"}, "stays longer above"),
        ({"exhaust_lift": "9 in"}, "A lobe lift of"),
        ({"intake_duration_1": "400", "intake_duration_2": "70"}, "No smooth lobe"),
        ({"intake_opens_deg": "12 BTDC"}, "all four events"),
        ({"intake_opens_deg": "12"}, "Before or after"),
        ({"lsa_deg": "20"}, "80 to 140"),
    ],
)
def test_a_card_that_does_not_add_up_says_so_and_keeps_what_was_typed(bench, built, changes, words):
    answer = post(bench, "cam", built, CARD | changes)
    assert answer.status_code == 422
    shown = answer.content.decode()
    assert words in shown
    for name, text in (CARD | changes).items():
        if text and name.endswith(("_1", "_2", "_lift")):
            assert f'value="{text}"' in shown
    assert not making.lines(built, "cam-card")


def test_advance_may_stand_for_the_centreline_and_events_are_kept(bench, built):
    events = {
        "events_at": "50", "intake_opens_deg": "7 BTDC", "intake_closes_deg": "39 ABDC",
        "exhaust_opens_deg": "47 BBDC", "exhaust_closes_deg": "9 BTDC",
    }  # fmt: skip
    assert post(bench, "cam", built, CARD | events | {"icl_deg": "", "advance_deg": "4"}).status_code == 302
    (card,) = making.items(built, "cam-card")
    assert (card.icl_deg, card.events.intake_closes_deg) == (106.0, 219.0)
    assert "contradicts itself: exhaust closes" in page(bench, "cam", built)


@pytest.mark.parametrize("name", ["lobe-csv", "lobe-txt"])
def test_a_pasted_lobe_is_taken_as_measured_and_given_back_as_csv(bench, built, name):
    post(bench, "cam", built, CARD)
    assert post(bench, "cam", built, LOBE).status_code == 302
    assert "lobe measured" in page(bench, "cam", built)
    csv = bench.get(reverse(name, args=[built.pk, "intake"])).content
    upload = LOBE | {"table": "", "file": SimpleUploadedFile("lobe.csv", csv)}
    assert post(bench, "cam", built, upload).status_code == 302
    first, second = making.items(built, "lobe-table")
    assert first == second
    assert bench.get(reverse(name, args=[built.pk, "exhaust"])).status_code == 404


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"table": ""}, "Paste two columns"),
        ({"table": TABLE.replace("-100\t", "x\t")}, "not an angle and a lift"),
        ({"table": TABLE.replace("\n20\t", "\n-20\t")}, "go up from row to row"),
        ({"degrees": "radians"}, "valid choice"),
        ({"table": "", "file": SimpleUploadedFile("lobe.csv", b"\xff\xfe\x00")}, "not text in UTF-8"),
    ],
)
def test_a_table_that_is_no_lobe_is_refused_and_kept_as_pasted(bench, built, changes, words):
    answer = post(bench, "cam", built, LOBE | changes)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not making.lines(built, "lobe-table")


def test_cam_degrees_are_doubled(bench, built):
    halved = "\n".join(f"{a / 2} {max(9 * (1 - (a / 120) ** 2) ** 3, 0):.3f}" for a in range(-130, 131, 10))
    post(bench, "cam", built, LOBE | {"degrees": "cam", "table": halved.replace("\n", " mm\n") + " mm"})
    (table,) = making.items(built, "lobe-table")
    assert table.angles_deg[0] == -130.0


def test_angles_without_letters_and_of_the_wrong_side_are_asked_about(bench, built):
    for opening, closing, said in (("70", "146", "Before or after"), ("150 BTDC", "74 BTDC", "Which TDC was it")):
        answer = post(bench, "cam", built, ANGLES | {"opening_deg": opening, "closing_deg": closing})
        assert answer.status_code == 422
        assert said in answer.content.decode()
    exhaust = ANGLES | {"side": "exhaust", "opening_deg": "10 ABDC", "closing_deg": "52 BTDC"}
    post(bench, "cam", built, exhaust)
    (reading,) = making.items(built, "degree")
    assert (reading.side, reading.opening_deg) == (Side.EXHAUST, -170.0)


def test_steps_of_the_cam_are_shown_where_they_lead(bench, built):
    post(bench, "cam", built, CARD)
    assert post(bench, "cam", built, {"moves": "1", "steps": "2, 4", "degrees": "cam"}).status_code == 302
    assert "advance 8" in page(bench, "cam", built)
    for bad in ("", "x", "0", "99", "nan"):
        assert post(bench, "cam", built, {"moves": "1", "steps": bad, "degrees": "crank"}).status_code == 422


def test_the_lift_that_arrives_needs_its_mock_up_and_shows_the_ratio_that_acts(bench, built, member):
    assert post(bench, "cam", built, {"lift-intake-1": "440"}, **HTMX).status_code == 422
    making.mockup(built, member)
    post(bench, "cam", built, CARD)
    post(bench, "cam", built, {"lift-intake-1": "440"}, **HTMX)
    assert "1.467" in page(bench, "cam", built)


CHOICE = {
    "choice": "1", "lifter": "hydraulic", "low_mm": "20", "aim_mm": "60", "high_mm": "80", "step_mm": "50",
    "lean_deg": "", "chosen_mm": "",
}  # fmt: skip


def test_pushrods_are_tried_in_turns_offered_chosen_and_judged(bench, built, member):
    making.mockup(built, member)
    rods = reverse("pushrods", args=[built.pk])
    echo = {"as": "pushrod", "text": "11.5 turns", "unit": "in", "closed": "6.8", "pitch": ".050"}
    assert "7.3750 in" in bench.get(reverse("understood"), echo).content.decode()
    bench.post(rods, {"rod-intake-1": "11.5 turns", "closed": "6.8", "pitch": "50"}, **HTMX)
    assert bench.post(rods, {"rod-exhaust-1": "11.5 turns"}, **HTMX).status_code == 422
    bench.post(rods, CHOICE)
    shown = page(bench, "pushrods", built)
    assert "7.400" in shown
    assert "7.450" in shown
    steps = bench.get(rods).context["report"].steps
    assert any("Choose the pushrods" in step.text for step in steps)
    bench.post(rods, CHOICE | {"chosen_mm": "7.450"})
    verdict = page(bench, "verdict", built)
    assert "Intake 1 preload" in verdict
    assert "7.450 in" in verdict
    assert not re.search(r"\b7[34]\d\d\b", words(verdict))  # never a length in thousands of thou
    assert re.search(r"7\.3\d\d ±0\.0\d+", words(page(bench, "pushrods", built)))  # nor its U in thou beside inches
    refused = bench.post(rods, CHOICE | {"aim_mm": "10"})
    assert refused.status_code == 422
    assert "go up in that order" in refused.content.decode()


def test_the_base_circle_is_named_by_the_firing_order(bench, member):
    four = making.build(member, cylinders=4, firing_order="1-3-4-2")
    assert "Turn until 2 is at overlap TDC" in page(bench, "pushrods", four, cylinder="3")
    plain = making.build(member, cylinders=4)
    assert "Bring 3 to firing TDC" in page(bench, "pushrods", plain, cylinder="3")


def test_a_wipe_pattern_is_kept_and_said_to_be_off_centre(bench, built, member):
    making.mockup(built, member)
    bench.post(reverse("pushrods", args=[built.pk]), {"wipe-intake-1": "20 to 110 of 342, not square"}, **HTMX)
    shown = page(bench, "pushrods", built)
    assert "90 wide, 106 inward, not square" in shown


def test_a_mock_up_is_copied_changed_and_gone_through(bench, built):
    address = reverse("mock-up", args=[built.pk])
    bench.post(address, MOCKUP | {"head": "front head on the left bank", "rocker_ratio": "1.5", "pistons": "reversed"})
    assert "front head on the left bank" in page(bench, "mock-up", built)
    assert "Pistons were in backwards" in page(bench, "mock-up", built)
    bench.post(address, {"turning": "1", "turn-plugs": "1", "turn-dowels": "1"})
    shown = page(bench, "mock-up", built)
    assert len(re.findall(r"\bchecked\b(?=[^<]*>)", shown)) == 2
    bench.post(reverse("clay", args=[built.pk]), {"clay-intake-1-face-0": "95"})
    bench.post(address, MOCKUP | {"gasket_mm": "41"})
    assert 'value="0.039 in"' in page(bench, "mock-up", built, **{"from": "A"})


def test_a_build_with_its_whole_train_goes_out_and_comes_back_the_same(bench, whole):
    post(bench, "cam", whole, CARD)
    post(bench, "cam", whole, LOBE)
    post(bench, "cam", whole, ANGLES | {"opening_deg": "70 ATDC", "closing_deg": "146 ATDC"})
    post(bench, "cam", whole, {"moves": "1", "steps": "2", "degrees": "crank"})
    post(bench, "cam", whole, {"lift-intake-1": "440"})
    post(bench, "pushrods", whole, CHOICE)
    post(bench, "pushrods", whole, {"rod-intake-1": "7.375", "wipe-intake-1": "120 to 210 of 342"})
    exported = bench.get(reverse("export", args=[whole.pk])).content
    address = taken_in(bench, exported).url
    mine, theirs = (bench.get(at).context["report"] for at in (reverse("verdict", args=[whole.pk]), address))
    assert (mine.cam.lsa_deg, mine.cam.moves) == (theirs.cam.lsa_deg, theirs.cam.moves)
    assert [one.ratio for one in mine.arrived] == [one.ratio for one in theirs.arrived]
    assert [one.zero for one in mine.pushrods.values()] == [one.zero for one in theirs.pushrods.values()]
    (before,), (after,) = mine.job.lobe_tables, theirs.job.lobe_tables
    assert before.angles_deg == after.angles_deg
    assert before.lifts_mm == pytest.approx(after.lifts_mm, abs=1e-12)
    assert mine.cam.sides[Side.INTAKE].train.lift_max_mm == pytest.approx(9.0 - thou(16), abs=0.01)
