"""Cams on the shelf: typed, as a file, from a build, taken off again."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django_scopes import scope

from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Side
from tests.making import CARD, thou
from tests.web import words
from tests.web.asking import post, shelf_cam
from web.builds.assemble import assemble
from web.shelf.models import ShelfCam

CARD_TYPED = {
    "cam": "1", "name": "Marsh 30", "unit": "in", "price": "240", "note": "nitrided", "tables_at": "lobe",
    "tables_degrees": "crank", "tables_zero": "centreline", "intake_lift": "300", "intake_duration_1": "264",
    "intake_at_1": "20", "intake_duration_2": "226", "intake_at_2": "50", "lsa_deg": "110", "icl_deg": "106",
}  # fmt: skip


def builds_list(client, **fields):
    return client.post("/shelf/cams/", fields)


def test_a_card_is_put_on_the_shelf_and_taken_off_again(bench, member):
    assert builds_list(bench, **CARD_TYPED).status_code == 302
    row = shelf_cam(member.shop, "Marsh 30")
    assert row.core() == Camshaft(name="Marsh 30", card=CARD)
    said = words(bench.get("/shelf/cams/"))
    assert "Marsh 30 available" in said
    assert "240 nitrided" in said
    assert "264° above 20 thou" in said
    assert builds_list(bench, off=f"cam-{row.pk}").status_code == 302
    assert "Marsh 30" not in words(bench.get("/shelf/cams/"))


def test_lifts_at_the_valve_are_divided_by_the_ratio_they_were_printed_for(bench, member):
    typed = CARD_TYPED | {"lifts": "valve", "lift_ratio": "1.5", "intake_lift": "450", "intake_tdc_lift": "90"}
    assert builds_list(bench, **typed).status_code == 302
    lobe = shelf_cam(member.shop, "Marsh 30").core().card.intake
    assert lobe.lift_mm == pytest.approx(thou(300))
    assert lobe.tdc_lift_mm == pytest.approx(thou(60))


@pytest.mark.parametrize(
    ("typed", "at", "says"),
    [
        ({"lifts": "valve"}, "lift_ratio", "need the ratio"),
        ({"icl_deg": ""}, "icl_deg", "Give the intake centreline"),
        ({"lsa_deg": ""}, "lsa_deg", "or the exhaust centreline"),
        ({"ecl_deg": "120"}, "ecl_deg", "make a separation of 113, but 110 is given"),
        ({"advance_deg": "8"}, "advance_deg", "8 is given"),
        ({"intake_at_2": ""}, "intake_at_2", "needs its checking lift"),
        ({"intake_lift": ""}, "intake_lift", "Give its lift"),
        ({"exhaust_lift": "300"}, "exhaust_duration_1", "One to three durations"),
        ({"name": ""}, "name", "required"),
        ({"intake_table": "not a table"}, "intake_table", "no rows"),
    ],
)
def test_what_contradicts_itself_is_said_at_its_field_and_nothing_is_lost(bench, member, typed, at, says):
    answer = builds_list(bench, **(CARD_TYPED | typed))
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
        assert builds_list(bench, **(CARD_TYPED | {"name": name} | given)).status_code == 302
        assert shelf_cam(member.shop, name).core().card == CARD


def test_a_measured_lobe_alone_is_a_cam_with_the_place_that_is_said(bench, member):
    table = "angle\tlift in\n" + "\n".join(
        f"{a}\t{max(0.3 * (1 - (a / 130) ** 2), 0):.4f}" for a in range(-130, 131, 5)
    )
    kept = ("cam", "name", "unit", "tables_at", "tables_degrees", "tables_zero")
    bare = {name: CARD_TYPED[name] for name in kept}
    assert builds_list(bench, **bare, intake_table=table, icl_deg="108", lsa_deg="110").status_code == 302
    cam = shelf_cam(member.shop, "Marsh 30").core()
    assert (cam.card, cam.icl_deg, cam.ecl_deg) == (None, 108.0, 112.0)
    assert cam.table(Side.INTAKE).lifts_mm[26] == pytest.approx(thou(300))
    assert "nothing known" in words(bench.get("/shelf/cams/"))
    assert builds_list(bench, **bare).status_code == 422


def test_a_measured_lobe_comes_as_a_file_too(bench, member):
    rows = (f"{a};{max(7.5 * (1 - (a / 130) ** 2), 0):.3f}".replace(".", ",") for a in range(-130, 131, 5))
    table = "crank;mm\n" + "\n".join(rows)
    bare = {name: CARD_TYPED[name] for name in ("cam", "name", "unit", "tables_at", "tables_degrees", "tables_zero")}
    sent = SimpleUploadedFile("lobe.csv", table.encode(), content_type="text/csv")
    assert builds_list(bench, **bare, intake_file=sent, icl_deg="108").status_code == 302
    assert max(shelf_cam(member.shop, "Marsh 30").core().table(Side.INTAKE).lifts_mm) == pytest.approx(7.5)
    wrong = SimpleUploadedFile("lobe.csv", b"\xff\xfe\x00", content_type="text/csv")
    answer = builds_list(bench, **(bare | {"name": "other"}), exhaust_file=wrong)
    assert "not text in UTF-8" in str(answer.context["form"].errors["exhaust_table"])


def test_a_build_s_own_cam_is_put_on_the_shelf(bench, dropped, member, viewer):
    assert post(bench, dropped, "cam", shelve="1").status_code == 302
    row = shelf_cam(member.shop, "from Bittern")
    assert row.had
    assert row.core().card == CARD
    assert post(viewer, dropped, "cam", shelve="1").status_code == 403


def test_a_card_that_does_not_agree_with_itself_says_so_on_the_shelf(bench):
    builds_list(bench, **CARD_TYPED, intake_tdc_lift="5")
    assert "from the rest of the card" in words(bench.get("/shelf/cams/"))


def test_another_shop_sees_and_takes_off_none_of_them(bench, stranger, member):
    builds_list(bench, **CARD_TYPED)
    row = shelf_cam(member.shop, "Marsh 30")
    assert "Marsh 30" not in words(stranger.get("/shelf/cams/"))
    assert builds_list(stranger, off=f"cam-{row.pk}").status_code == 404
    assert shelf_cam(member.shop, "Marsh 30").off_since is None


def test_long_text_and_odd_keys_are_answered(bench):
    assert builds_list(bench, **(CARD_TYPED | {"note": "x" * 40_000})).status_code == 422
    assert builds_list(bench, off="cam-" + "9" * 40).status_code == 404
    assert builds_list(bench, off="nothing").status_code == 404


def test_the_build_s_own_card_takes_an_exhaust_that_is_alike(bench, built, member):
    typed = {name: value for name, value in CARD_TYPED.items() if name.startswith(("intake", "lsa", "icl"))}
    assert post(bench, built, "cam", card="1", **typed).status_code == 302
    with scope(shop=member.shop):
        assert assemble(built).cam_card == CARD
