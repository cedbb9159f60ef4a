"""Which of the shelf's cams an engine takes: predicted, decided, done, measured."""

import pytest
from django_scopes import scope

from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, ROCKERS_CHANGED
from mockup.engine.cam import CamCard
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.readings.cam_timing import DegreeReading
from mockup.readings.sweep import SweepReading
from tests import making_rows as making
from tests.making import CARD, OTHER_CAM, thou
from tests.web import words
from tests.web.asking import page, post, shelf_cam
from web.builds import services
from web.builds.assemble import assemble
from web.builds.models import Build
from web.exchange.import_job import build_from

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


def test_what_is_predicted_is_what_the_what_if_shows(bench, dropped):
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
    assert [change.kind for change in changes] == [CAMSHAFT_CHANGED, CAM_MOVED, ROCKERS_CHANGED]
    assert changes[0].cam == OTHER_CAM
    said = words(page(bench, dropped))
    assert "Another cam: the other" in said
    assert "pushrod length (base circles differ)" in said


def test_one_that_was_taken_off_meanwhile_is_said_and_nothing_decided(bench, dropped):
    row = shelf_cam(dropped.shop, "mild")
    bench.post("/shelf/cams/", {"off": f"cam-{row.pk}"})
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
    assert "1 reading of an earlier cam is in the history" in words(answer)
    making.write(
        swapped, member, DegreeReading(key="", side=Side.INTAKE, lift_mm=1.27, opening_deg=-14, closing_deg=222)
    )
    assert len(page(bench, swapped, name="cam").context["degrees"]) == 1


def test_measured_again_the_prediction_stands_beside_it(bench, swapped):
    url = "sweep?cylinder=1&valve=intake-1"
    for at, text in ((0, "105"), (5, "91"), (10, "88"), (15, "95")):
        assert post(bench, swapped, url, **{f"sweep-{at}": text}).status_code in (200, 302)
    answer = page(bench, swapped, name="which-cam")
    label, then, now = answer.context["predicted"][0]
    assert label == "Intake 1"
    assert "±" in then
    assert float(then.split(" ±")[1]) > float(now.split(" ±")[1])
    assert "Predicted and measured" in words(answer)


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
    bench.post("/shelf/cams/", {"off": f"cam-{row.pk}"})
    assert "There is no cam" in words(page(bench, dropped, f"?kept={kept.pk}"))


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
