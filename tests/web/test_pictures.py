"""The camera as a caliper, and pictures as evidence: measured, kept, removed."""

import csv
import io
import zipfile

import pytest
from django.urls import reverse
from django_scopes import scope, scopes_disabled

from mockup.base.faults import FaultsError
from mockup.engine.valves import Place, Side
from mockup.readings.clay import Gap
from tests.making_pictures import jpeg, the_picture, upload
from tests.web import words
from web.builds.models import Entry
from web.builds.services import strike
from web.demo.bittern import MARKS
from web.pictures import services
from web.pictures.models import Evidence, KeptFile, Picture

TRUE_THOU = 96.05
"""What the renderer made it (virtual/demo_picture.py)."""


def marked(**more):
    found = {f"p{at}": f"{x},{y}" for at, (x, y) in enumerate(MARKS.reference)}
    found |= {f"e{at}": f"{x},{y}" for at, (x, y) in enumerate(MARKS.ends)}
    return found | {"reach": str(MARKS.reach_px), "sides": "four", "length": "20 mm", "valve": "1-intake-1"} | more


@pytest.fixture
def kept(bench, whole):
    """A picture of the build, and the address to measure it at."""
    answer = bench.post(reverse("pictures-in", args=[whole.pk]) + "?cylinder=1&mockup=A", {"picture": upload()})
    assert answer.status_code == 302
    return answer.url


def readings(build):
    with scope(shop=build.shop):
        return list(Entry.objects.filter(build=build, kind="clay", data__instrument="camera"))


def test_a_picture_is_measured_and_taken_as_a_reading_with_the_picture_as_its_evidence(bench, whole, kept):
    looked = bench.post(kept, marked(), HTTP_HX_REQUEST="true")
    assert "thinnest of the slice as marked" in words(looked)
    assert not readings(whole), "looking writes nothing"
    assert bench.post(kept, marked(take="1")).status_code == 302
    (entry,) = readings(whole)
    thou = entry.data["thickness_mm"] / 0.0254
    assert abs(thou - TRUE_THOU) <= 2 * entry.data["u_mm"] / 0.0254 <= 2.5
    assert entry.data["instrument"] == "camera"
    with scopes_disabled():
        evidence = Evidence.objects.get(entry=entry)
    assert services.marks_of(evidence).ends == MARKS.ends
    assert len(evidence.seen["edges"]) == 2
    clay = bench.get(reverse("clay", args=[whole.pk]) + "?cylinder=1&mockup=A")
    assert f"picture {evidence.picture_id}" in words(clay)
    history = bench.get(reverse("history", args=[whole.pk])).content.decode()
    assert reverse("picture-small", args=[whole.pk, evidence.picture_id]) in history


def test_the_u_of_the_picture_is_the_u_of_the_reading_and_more_of_them_do_not_make_it_surer(bench, whole, kept):
    bench.post(kept, marked(take="1", spot="wall"))
    bench.post(kept, marked(take="1", spot="wall"))
    bench_page = bench.get(reverse("verdict", args=[whole.pk]))
    check = next(one for one in bench_page.context["report"].checks if one.label == "Intake 1")
    finding = next(one for one in (check.governing, *check.others) if one.method.startswith("clay"))
    assert finding.corrections[0].delta.u >= readings(whole)[0].data["u_mm"]


def test_the_valve_offered_is_one_without_clay_of_the_cylinder_in_hand(bench, whole, member):
    address = reverse("pictures-in", args=[whole.pk])
    with scope(shop=whole.shop):
        for entry in Entry.objects.filter(kind="clay", data__place__cylinder=1, data__place__side="exhaust"):
            strike(entry, member, "read of another valve")
    for cylinder, valve in ((1, "1-exhaust-1"), (2, "2-intake-1")):
        answer = bench.post(f"{address}?cylinder={cylinder}&mockup=A", {"picture": upload()})
        assert bench.get(answer.url).context["valve"] == valve


def test_sent_again_with_the_same_token_it_is_one_reading(bench, whole, kept):
    token = "5f0c1a52-1f61-4a3c-9a3e-3a9a4b1c0d11"
    for _ in range(2):
        bench.post(kept, marked(take="1", token=token))
    assert len(readings(whole)) == 1


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"length": ""}, "Type the length of the reference"),
        ({"length": "a hand"}, "a hand"),
        ({"length": "9000 mm"}, "0.2 to 200 mm"),
        ({"within": "much"}, "much"),
        ({"valve": "9-intake-1"}, "Choose its valve"),
        ({"spot": "x" * 50}, "at most 40"),
        ({"e0": "20,20", "e1": "60,25"}, "the clay"),
        ({"p1": "1584,2"}, "reference"),
        ({"p0": "-50,-50"}, "outside of the picture"),
        ({"reach": "2"}, "8 pixels"),
        ({"reach": "wide"}, "not a number of pixels"),
        ({"p2": "over there"}, "not a place in the picture"),
    ],
)
def test_what_cannot_be_measured_is_refused_with_the_reason_and_nothing_is_lost(bench, whole, kept, wrong, says):
    answer = bench.post(kept, marked(take="1", **wrong))
    assert answer.status_code == 422
    assert says in words(answer)
    assert not readings(whole)
    # All else that was typed and marked is still there.
    if "e0" not in wrong:
        assert 'value="856.0,415.0"' in answer.content.decode()


def test_without_a_mockup_the_picture_is_kept_and_says_what_is_missing(bench, built):
    answer = bench.post(reverse("pictures-in", args=[built.pk]), {"picture": upload()})
    refused = bench.post(answer.url, marked(take="1"))
    assert "Save the mock-up first" in words(refused)
    assert the_picture().mockup == ""


def test_two_edges_say_that_the_tilt_is_not_known(bench, whole, kept):
    # The left and the right side of the square lie across the thickness: nothing is measured that way.
    across = {"sides": "two", "p0": "148,400", "p1": "676,420"}
    assert "askew of the clay" in words(bench.post(kept, marked(**across), HTTP_HX_REQUEST="true"))
    along = {"sides": "two", "p0": "420,148", "p1": "400,680"}
    assert "±" in words(bench.post(kept, marked(**along), HTTP_HX_REQUEST="true"))


def test_a_build_holds_so_many_pictures_and_says_so(bench, whole, monkeypatch):
    monkeypatch.setattr(services, "MOST_OF_A_BUILD", 1)
    address = reverse("pictures", args=[whole.pk])
    answer = bench.post(address, {"pictures": [upload(jpeg()), upload(jpeg(), "second.jpg")]})
    assert answer.status_code == 422
    assert "second.jpg: This build has 1 pictures" in words(answer)
    assert "1 of 2 pictures added" in words(answer)
    monkeypatch.setattr(services, "MOST_OF_A_SHOP", 10)
    monkeypatch.setattr(services, "MOST_OF_A_BUILD", 9)
    assert "The shop’s pictures use" in words(bench.post(address, {"pictures": [upload(jpeg())]}))


def test_pictures_are_the_shops_alone_and_a_viewer_only_looks(bench, whole, kept, stranger, viewer):
    picture = the_picture()
    for name in ("picture", "picture-small"):
        address = reverse(name, args=[whole.pk, picture.pk])
        shown = bench.get(address)
        assert (shown.status_code, shown["Content-Type"]) == (200, "image/jpeg")
        assert "private" in shown["Cache-Control"]
        assert viewer.get(address).status_code == 200
        assert stranger.get(address).status_code == 404
    assert stranger.get(kept).status_code == stranger.post(kept, marked(take="1")).status_code == 404
    assert viewer.get(kept).status_code == 200
    assert "data-mark" not in viewer.get(kept).content.decode(), "what a viewer moves would be refused"
    assert "data-mark" in bench.get(kept).content.decode()
    assert viewer.post(kept, marked(take="1")).status_code == 403
    assert "Write the reading" not in words(viewer.get(kept))
    other = reverse("picture", args=[whole.pk + 1, picture.pk])
    assert bench.get(other).status_code == 404, "of another build it is not"


def test_a_picture_is_called_put_on_the_sheet_and_goes_with_it(bench, whole, kept):
    bench.post(kept, marked(take="1"))
    picture = the_picture()
    address = reverse("pictures", args=[whole.pk])
    bench.post(address, {"picture": picture.pk, "words": "the slice of number one", "on_sheet": "on"})
    sheet = bench.get(reverse("sheet", args=[whole.pk])).content.decode()
    assert "the slice of number one" in sheet
    assert "data:image/jpeg;base64," in sheet
    assert sheet.count('stroke="#ff5a1f"') == 2, "both edges over it"
    pdf = bench.get(reverse("sheet-pdf", args=[whole.pk])).content
    assert pdf.count(b"/DCTDecode") + pdf.count(b"/Subtype /Image") >= 1
    long = bench.post(address, {"picture": picture.pk, "words": "x" * 201})
    assert "At most 200" in words(long)


def test_a_picture_with_a_reading_stays_and_without_one_its_bytes_are_gone(bench, whole, kept):
    bench.post(kept, marked(take="1"))
    picture, address = the_picture(), reverse("pictures", args=[whole.pk])
    gone = {"picture": the_picture().pk, "remove": "1", "reason": "shows a face"}
    assert "strike that out first" in words(bench.post(address, gone))
    (entry,) = readings(whole)
    bench.post(reverse("clay", args=[whole.pk]), {"strike": entry.key, "reason": "wrong slice"})
    assert "A reason of" in words(bench.post(address, gone | {"reason": " "}))
    assert bench.post(address, gone).status_code == 302
    with scopes_disabled():
        assert not KeptFile.objects.exists()
    assert bench.get(reverse("picture", args=[whole.pk, picture.pk])).status_code == 404
    assert "shows a face" in words(bench.get(reverse("history", args=[whole.pk])))
    assert bench.post(address, gone).status_code == 404


def test_a_picture_may_belong_to_a_mockup_or_a_reading(bench, whole):
    with scope(shop=whole.shop):
        deck = Entry.objects.filter(build=whole, kind="deck").first()
    address = reverse("pictures", args=[whole.pk])
    for of in ("mockup-A", f"entry-{deck.pk}"):
        assert bench.post(address, {"pictures": [upload(jpeg())], "of": of}).status_code == 302
    with scopes_disabled():
        assert [one.mockup for one in Picture.objects.all()] == ["A", ""]
        assert Evidence.objects.get().entry_id == deck.pk
    assert "mock-up A" in words(bench.get(address))
    assert bench.post(address, {"pictures": [upload(jpeg())], "of": "entry-999999999"}).status_code == 422


def test_all_of_them_go_out_as_one_archive(bench, whole, kept):
    bench.post(kept, marked(take="1"))
    answer = bench.get(reverse("pictures-zip", args=[whole.pk]))
    with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
        names = archive.namelist()
        assert sorted(names) == ["job.json", f"picture-{the_picture().pk}.jpg", "pictures.csv"]
        (row,) = csv.DictReader(io.StringIO(archive.read("pictures.csv").decode("utf-8-sig")))
        assert archive.read(row["file"])[:2] == b"\xff\xd8"
    assert "Intake 1" in row["shows"]
    assert '"length_mm": 20.0' in row["marks (px)"]


def test_the_card_says_how_long_its_squares_came_out(bench):
    address = reverse("reference-card")
    assert "20.00 mm" not in words(bench.get(address))
    answer = words(bench.get(address, {"across": "99.5", "down": "100.4 mm"}))
    assert "19.90 mm" in answer
    assert "20.08 mm" in answer
    assert "not fitted to the page" in words(bench.get(address, {"across": "87", "down": "100"}))
    assert bench.get(reverse("card-pdf")).content.startswith(b"%PDF-")


def test_a_plain_picture_of_a_reading_can_be_measured_and_removed_all_the_same(bench, whole):
    with scope(shop=whole.shop):
        deck = Entry.objects.filter(build=whole, kind="deck").first()
    address = reverse("pictures", args=[whole.pk])
    bench.post(address, {"pictures": [upload(jpeg())], "of": f"entry-{deck.pk}"})
    picture = the_picture()
    page = bench.get(reverse("measure-picture", args=[whole.pk, picture.pk]))
    assert page.status_code == 200
    assert "nothing marked yet" in words(page)
    assert bench.post(address, {"picture": picture.pk, "remove": "1", "reason": "blurred"}).status_code == 302


def test_the_next_picture_begins_with_the_reference_that_was_used_last(bench, whole, kept):
    bench.post(kept, marked(take="1", length="19.9 mm", across="20.1 mm", within="0.5"))
    answer = bench.post(reverse("pictures-in", args=[whole.pk]), {"picture": upload(jpeg((900, 600)))})
    form = bench.get(answer.url).context["form"]
    assert (form.length, form.across, form.within) == ("19.9 mm", "20.1 mm", "0.50")
    assert form.points["p0"] != MARKS.reference[0], "where it lies is another matter"


def test_a_picture_removed_while_it_was_measured_becomes_no_reading(bench, whole, kept, member, monkeypatch):
    picture, measured = the_picture(), services.seen_in

    def meanwhile(*asked):
        seen = measured(*asked)
        services.remove(Picture.objects.get(), member, "shows a face")
        return seen

    monkeypatch.setattr(services, "seen_in", meanwhile)
    at = services.Taken(place=Place(1, Side.INTAKE), gap=Gap.FACE, mockup="A")
    with scope(shop=whole.shop), pytest.raises(FaultsError, match="removed meanwhile"):
        services.take_reading(picture, MARKS, at, member, None)
    assert not readings(whole)
