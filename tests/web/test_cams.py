"""Cams on the shelf, which of them an engine takes, and one that went in: typed, foretold, decided, done, measured."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django_scopes import scope

from bench.builds import services
from bench.builds.assemble import assemble
from bench.builds.models import Build
from bench.exchange.importing import build_from
from bench.shelf.models import ShelfCam
from bench.shelf.services import put_cam_on
from mockup.changes.kind import ChangeKind
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.jobfile.read import read_job
from mockup.jobfile.write import write_job
from mockup.readings.cam_timing import DegreeReading
from mockup.readings.sweep import SweepReading
from tests import making_rows as making
from tests.making import CARD, OTHER_CAM, thou
from tests.web import words
from tests.web.asking import page, post

CARD_TYPED = {
    "cam": "1", "name": "Marsh 30", "unit": "in", "price": "240", "note": "nitrided", "tables_at": "lobe",
    "tables_degrees": "crank", "tables_zero": "centreline", "intake_lift": "300", "intake_duration_1": "264",
    "intake_at_1": "20", "intake_duration_2": "226", "intake_at_2": "50", "lsa_deg": "110", "icl_deg": "106",
}  # fmt: skip


@pytest.fixture
def dropped(member):
    """A build with both drops of its first cylinder read, a card, a gasket, and two cams on the shelf."""
    built = making.build(member, rocker_ratio=1.5)
    making.mockup(built, member, bolts="torqued")
    making.write(built, member, making.FinalGasket(compressed_mm=thou(36), bore_mm=97.0), CARD)
    drops = [
        SweepReading(key="", mockup="A", place=Place(1, side), clearance_mm=thou(down), drop=True)
        for side, down in ((Side.INTAKE, 210), (Side.EXHAUST, 235))
    ]
    making.write(built, member, *drops)
    with scope(shop=member.shop):
        put_cam_on(OTHER_CAM, member, price="300")
        mild = LobeCard(lift_mm=thou(250), durations=(Duration(240.0, thou(20)), Duration(200.0, thou(50))))
        card = CamCard(intake=mild, exhaust=mild, icl_deg=108.0, lsa_deg=112.0)
        put_cam_on(Camshaft(name="mild", card=card), member, had=True)
    return built


def shelf_cam(shop, name):
    with scope(shop=shop):
        return ShelfCam.objects.get(name=name)


def stand(client, **fields):
    return client.post("/shelf/cams/", fields)


# On the shelf


def test_a_card_is_put_on_the_shelf_and_taken_off_again(bench, member):
    assert stand(bench, **CARD_TYPED).status_code == 302
    row = shelf_cam(member.shop, "Marsh 30")
    assert row.core() == Camshaft(name="Marsh 30", card=CARD)
    said = words(bench.get("/shelf/cams/"))
    assert "Marsh 30 to be had" in said
    assert "240 nitrided" in said
    assert "264° above 20 thou" in said
    assert stand(bench, off=f"cam-{row.pk}").status_code == 302
    assert "Marsh 30" not in words(bench.get("/shelf/cams/"))


def test_lifts_at_the_valve_are_divided_by_the_ratio_they_were_printed_for(bench, member):
    typed = CARD_TYPED | {"lifts": "valve", "lift_ratio": "1.5", "intake_lift": "450", "intake_tdc_lift": "90"}
    assert stand(bench, **typed).status_code == 302
    lobe = shelf_cam(member.shop, "Marsh 30").core().card.intake
    assert lobe.lift_mm == pytest.approx(thou(300))
    assert lobe.tdc_lift_mm == pytest.approx(thou(60))


@pytest.mark.parametrize(
    ("typed", "at", "says"),
    [
        ({"lifts": "valve"}, "lift_ratio", "want the ratio"),
        ({"icl_deg": ""}, "icl_deg", "Give the intake centreline"),
        ({"lsa_deg": ""}, "lsa_deg", "or the exhaust centreline"),
        ({"ecl_deg": "120"}, "ecl_deg", "make a separation of 113; 110 is given"),
        ({"advance_deg": "8"}, "advance_deg", "8 is given"),
        ({"intake_at_2": ""}, "intake_at_2", "come together"),
        ({"intake_lift": ""}, "intake_lift", "Give its lift"),
        ({"exhaust_lift": "300"}, "exhaust_duration_1", "One to three durations"),
        ({"name": ""}, "name", "required"),
        ({"intake_table": "not a table"}, "intake_table", "no rows"),
    ],
)
def test_what_contradicts_itself_is_said_at_its_field_and_nothing_is_lost(bench, member, typed, at, says):
    answer = stand(bench, **(CARD_TYPED | typed))
    assert answer.status_code == 422
    assert says in " ".join(answer.context["form"].errors[at])
    assert 'value="nitrided"' in answer.content.decode()
    with scope(shop=member.shop):
        assert not ShelfCam.objects.exists()


def test_any_two_of_the_four_say_where_it_stands(bench, member):
    for name, given in (
        ("a", {"icl_deg": "106", "ecl_deg": "114", "lsa_deg": ""}),
        ("b", {"icl_deg": "", "advance_deg": "4"}),
        ("c", {"icl_deg": "", "ecl_deg": "114"}),
    ):
        assert stand(bench, **(CARD_TYPED | {"name": name} | given)).status_code == 302
        assert shelf_cam(member.shop, name).core().card == CARD


def test_a_measured_lobe_alone_is_a_cam_with_the_place_that_is_said(bench, member):
    table = "angle\tlift in\n" + "\n".join(
        f"{a}\t{max(0.3 * (1 - (a / 130) ** 2), 0):.4f}" for a in range(-130, 131, 5)
    )
    kept = ("cam", "name", "unit", "tables_at", "tables_degrees", "tables_zero")
    bare = {name: CARD_TYPED[name] for name in kept}
    assert stand(bench, **bare, intake_table=table, icl_deg="108", lsa_deg="110").status_code == 302
    cam = shelf_cam(member.shop, "Marsh 30").core()
    assert (cam.card, cam.icl_deg, cam.ecl_deg) == (None, 108.0, 112.0)
    assert cam.table(Side.INTAKE).lifts_mm[26] == pytest.approx(thou(300))
    assert "nothing known" in words(bench.get("/shelf/cams/"))
    assert stand(bench, **bare).status_code == 422


def test_a_measured_lobe_comes_as_a_file_too(bench, member):
    rows = (f"{a};{max(7.5 * (1 - (a / 130) ** 2), 0):.3f}".replace(".", ",") for a in range(-130, 131, 5))
    table = "crank;mm\n" + "\n".join(rows)
    bare = {name: CARD_TYPED[name] for name in ("cam", "name", "unit", "tables_at", "tables_degrees", "tables_zero")}
    sent = SimpleUploadedFile("lobe.csv", table.encode(), content_type="text/csv")
    assert stand(bench, **bare, intake_file=sent, icl_deg="108").status_code == 302
    assert max(shelf_cam(member.shop, "Marsh 30").core().table(Side.INTAKE).lifts_mm) == pytest.approx(7.5)
    wrong = SimpleUploadedFile("lobe.csv", b"\xff\xfe\x00", content_type="text/csv")
    answer = stand(bench, **(bare | {"name": "other"}), exhaust_file=wrong)
    assert "not text in UTF-8" in str(answer.context["form"].errors["exhaust_table"])


def test_a_build_s_own_cam_is_put_on_the_shelf(bench, dropped, member, viewer):
    assert post(bench, dropped, "cam", shelve="1").status_code == 302
    row = shelf_cam(member.shop, "from Bittern")
    assert row.had
    assert row.core().card == CARD
    assert post(viewer, dropped, "cam", shelve="1").status_code == 403


def test_a_card_that_does_not_agree_with_itself_says_so_on_the_shelf(bench):
    stand(bench, **CARD_TYPED, intake_tdc_lift="5")
    assert "by the rest of the card" in words(bench.get("/shelf/cams/"))


def test_another_shop_sees_and_takes_off_none_of_them(bench, stranger, member):
    stand(bench, **CARD_TYPED)
    row = shelf_cam(member.shop, "Marsh 30")
    assert "Marsh 30" not in words(stranger.get("/shelf/cams/"))
    assert stand(stranger, off=f"cam-{row.pk}").status_code == 404
    assert shelf_cam(member.shop, "Marsh 30").off_since is None


def test_long_text_and_odd_keys_are_answered(bench):
    assert stand(bench, **(CARD_TYPED | {"note": "x" * 40_000})).status_code == 422
    assert stand(bench, off="cam-" + "9" * 40).status_code == 404
    assert stand(bench, off="nothing").status_code == 404


def test_the_build_s_own_card_takes_an_exhaust_that_is_alike(bench, built, member):
    typed = {name: value for name, value in CARD_TYPED.items() if name.startswith(("intake", "lsa", "icl"))}
    assert post(bench, built, "cam", card="1", **typed).status_code == 302
    with scope(shop=member.shop):
        assert assemble(built).cam_card == CARD


# Which cam


def test_each_cam_is_told_with_its_figure_and_what_would_make_it_clear(bench, dropped):
    answer = page(bench, dropped, name="which-cam")
    said = words(answer)
    assert "The drop of 2 of 4 valves is known." in said
    lines = answer.context["lines"]
    assert [line.row.name for line in lines] == ["mild", "the other"]
    assert lines[0].stands == "clear"
    assert lines[1].stands != "clear"
    assert "to be measured" in said
    assert lines[1].work
    assert answer.context["chart"].lines


def test_only_those_asked_for_are_tried_and_shown(bench, dropped):
    row = shelf_cam(dropped.shop, "mild")
    lines = page(bench, dropped, f"?cam={row.pk}", "which-cam").context["lines"]
    assert [line.row.name for line in lines] == ["mild"]
    answer = page(bench, dropped, "?only=clear", "which-cam")
    assert [line.row.name for line in answer.context["lines"]] == ["mild"]
    assert "1 more not shown" in words(answer)
    assert page(bench, dropped, "?only=near&relief=90", "which-cam").context["lines"] == []


def test_position_and_ratio_move_every_one_and_nonsense_is_said_at_its_field(bench, dropped):
    plain, moved = (page(bench, dropped, query, "which-cam").context["lines"] for query in ("", "?advance=6&ratio=1.6"))
    assert plain[0].tightest.figure != moved[0].tightest.figure
    for query in ("?advance=99", "?ratio=9", "?relief=900", "?advance=x", "?cam=999999&cam=x"):
        answer = page(bench, dropped, query, "which-cam")
        assert answer.status_code in (200, 422)


def test_without_a_drop_a_gasket_or_a_cam_the_page_says_what_it_wants(bench, built, member):
    said = words(page(bench, built, name="which-cam"))
    assert "No valve’s drop is known" in said
    assert "No cam on the shelf" in said
    making.mockup(built, member)
    place = Place(1, Side.INTAKE)
    making.write(built, member, SweepReading(key="", mockup="A", place=place, clearance_mm=4.0, drop=True))
    assert "Choose the final gasket" in words(page(bench, built, name="which-cam"))


def test_what_is_foretold_is_what_the_what_if_shows(bench, dropped):
    line = page(bench, dropped, name="which-cam").context["lines"][1]
    every = bench.get(line.query).context["every"]
    now = {check.label: check for _, check in every}[line.tightest.label]
    figure = page(bench, dropped, name="which-cam").context["lines"][1].tightest.figure
    assert figure.startswith(f"{now.figure.value / thou(1):.1f}")


def taken(bench, built, name="the other", **more):
    row = shelf_cam(built.shop, name)
    return post(bench, built, "which-cam", take=str(row.pk), **more)


def test_taking_one_makes_it_the_plan_with_where_it_stands_and_its_rockers(bench, dropped):
    assert taken(bench, dropped, advance="4", ratio="1.6").status_code == 302
    changes = making.items(dropped, "change")
    assert [change.kind for change in changes] == [ChangeKind.CAMSHAFT, ChangeKind.CAM, ChangeKind.ROCKERS]
    assert changes[0].cam == OTHER_CAM
    said = words(page(bench, dropped))
    assert "Another cam: the other" in said
    assert "pushrod length, since base circles differ" in said


def test_one_that_was_taken_off_meanwhile_is_said_and_nothing_decided(bench, dropped):
    row = shelf_cam(dropped.shop, "mild")
    stand(bench, off=f"cam-{row.pk}")
    answer = post(bench, dropped, "which-cam", take=str(row.pk))
    assert answer.status_code == 422
    assert "taken off the shelf" in words(answer)
    assert not making.lines(dropped, "change")


def test_a_viewer_looks_and_another_shop_has_nothing(viewer, stranger, dropped):
    assert page(viewer, dropped, name="which-cam").status_code == 200
    assert taken(viewer, dropped).status_code == 403
    assert page(stranger, dropped, name="which-cam").status_code == 404
    assert taken(stranger, dropped).status_code == 404


# Once it is in


@pytest.fixture
def swapped(bench, dropped, member):
    """The other cam decided and done; the first had been degreed."""
    degreed = DegreeReading(key="", side=Side.INTAKE, lift_mm=1.27, opening_deg=-6.0, closing_deg=214.0)
    making.write(dropped, member, degreed)
    taken(bench, dropped)
    post(bench, dropped, "put-right", done=making.lines(dropped, "change")[0].key)
    return dropped


def job_of(built):
    with scope(shop=built.shop):
        return assemble(Build.objects.get(pk=built.pk))


def test_once_done_the_card_is_the_engine_s_and_what_was_degreed_is_the_old_one_s(bench, swapped):
    job = job_of(swapped)
    assert job.cam_card == OTHER_CAM.card
    assert job.changes[0].cam_was == Camshaft(card=CARD)
    report = evaluate(job)
    assert report.cam.sides[Side.INTAKE].degreed is None
    assert "a prediction" in words(page(bench, swapped, "?cylinder=1", "sweep"))


def test_the_cam_station_shows_what_was_degreed_of_this_cam_alone(bench, swapped, member):
    answer = page(bench, swapped, name="cam")
    assert answer.context["degrees"] == []
    assert "1 reading of the cam that was in before stands in the history" in words(answer)
    making.write(
        swapped, member, DegreeReading(key="", side=Side.INTAKE, lift_mm=1.27, opening_deg=-14, closing_deg=222)
    )
    assert len(page(bench, swapped, name="cam").context["degrees"]) == 1


def test_measured_again_the_prediction_stands_beside_it(bench, swapped):
    url = "sweep?cylinder=1&valve=intake-1"
    for at, text in ((0, "105"), (5, "91"), (10, "88"), (15, "95")):
        assert post(bench, swapped, url, **{f"sweep-{at}": text}).status_code in (200, 302)
    answer = page(bench, swapped, name="which-cam")
    label, then, now = answer.context["foretold"][0]
    assert label == "Intake 1"
    assert "±" in then
    assert float(then.split(" ±")[1]) > float(now.split(" ±")[1])
    assert "Foretold and measured" in words(answer)


def test_not_done_after_all_the_old_cam_is_back(bench, swapped):
    done = making.lines(swapped, "done")[0]
    with scope(shop=swapped.shop):
        services.strike(done, done.by, "the wrong box")
    job = job_of(swapped)
    assert job.cam_card == CARD
    assert evaluate(job).cam.sides[Side.INTAKE].degreed


def test_the_whole_of_it_goes_through_a_job_file_and_back_into_a_book(bench, swapped, member):
    first = job_of(swapped)
    with scope(shop=member.shop):
        again = assemble(build_from(read_job(write_job(first)), member))
    assert again.cam_card == first.cam_card
    assert [(c.kind, c.order, c.cam, c.cam_was) for c in again.changes] == [
        (c.kind, c.order, c.cam, c.cam_was) for c in first.changes
    ]
    figures = [[(c.label, c.figure) for c in evaluate(job).checks] for job in (first, again)]
    assert figures[0] == figures[1]


def test_a_card_corrected_after_it_went_in_goes_through_the_file_too(bench, swapped, member):
    corrected = CamCard(intake=OTHER_CAM.card.intake, exhaust=OTHER_CAM.card.exhaust, icl_deg=107.0, lsa_deg=110.0)
    making.write(swapped, member, corrected)
    with scope(shop=member.shop):
        again = assemble(build_from(read_job(write_job(job_of(swapped))), member))
    assert again.cam_card == corrected
    assert again.changes[0].cam == OTHER_CAM


def test_a_what_if_of_another_cam_is_kept_and_opened_again(bench, dropped):
    row = shelf_cam(dropped.shop, "the other")
    assert post(bench, dropped, camshaft=str(row.pk), name="big one", keep="1").status_code == 302
    kept = making.lines(dropped, "what-if")[0]
    answer = page(bench, dropped, f"?kept={kept.pk}")
    assert answer.context["form"]["camshaft"].value() == str(row.pk)
    assert "another cam: the other" in words(answer)
    stand(bench, off=f"cam-{row.pk}")
    assert "is on the shelf" in words(page(bench, dropped, f"?kept={kept.pk}"))


# The drop at the indicator


def test_the_drop_is_the_first_field_of_the_sheet_and_stands_beside_the_valves(bench, dropped):
    answer = page(bench, dropped, "?cylinder=1", "sweep")
    text = answer.content.decode()
    assert text.index("drop, firing TDC") < text.index("smallest by turning")
    assert [line.label for line in answer.context["known_drops"]] == ["Intake 1", "Exhaust 1"]
    assert "read at firing TDC, mock-up A" in words(answer)
    post(bench, dropped, "sweep?cylinder=2&valve=intake-1", **{"sweep-drop": "205"})
    lines = page(bench, dropped, "?cylinder=1", "sweep").context["known_drops"]
    assert [line.label for line in lines] == ["Intake 1", "Exhaust 1", "Intake 2"]
