"""Pages as a whole: the list, a build's data, verdict, limits, budgets, headers."""

import json

import pytest
from django.core.management import call_command
from django.test import Client
from django.urls import reverse
from django_scopes import scope, scopes_disabled

from launch import check
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.train import CAM_MOVED
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.formats.report_json import report_data
from mockup.plans.levers import Lever, ShopLimits
from mockup.plans.remedies import remedies
from mockup.readings.kinds import READING_KINDS
from tests import making_rows as making
from tests.web import BUILD_PAGES, words
from tests.web.asking import taken_in
from tests.web.forms import NEW, shown_in_the_form
from web.builds.assemble import assemble
from web.builds.models import Build, Entry
from web.page.build_form import LIKE, BuildForm, usual_layouts
from web.shops.models import Person, Shop


def test_a_build_is_begun_in_its_own_units_and_opens_where_its_next_thing_is(bench, member):
    answer = bench.post(reverse("new-build"), NEW)
    with scope(shop=member.shop):
        tern = Build.objects.get(name="Tern")
    assert answer.url == reverse("build", args=[tern.pk])
    sizes = (tern.engine.bore_mm, tern.engine.stroke_mm, tern.engine.rod_length_mm, tern.engine.pin_offset_mm)
    assert sizes == pytest.approx((102.362, 88.392, 145.0, -1.524))


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"bore_mm": "95.25"}, "Is the unit right"),
        ({"bore_mm": "wide"}, "not a length"),
        ({"rod_length_mm": "1.75"}, "cannot turn"),
        ({"cylinders": "7"}, "even number"),
        ({"cylinders": "40"}, "less than or equal to 16"),
        ({"intake_angle_deg": "80"}, "0 to 60 degrees"),
        ({"intake_angle_deg": "nan"}, "Enter a number"),
        ({"rocker_ratio": "0"}, "ratio of 1 to 3"),
        ({"intake_count": "9"}, "One to three"),
        ({"unit": "furlong"}, "valid choice"),
    ],
)
def test_a_build_that_cannot_be_is_refused_and_everything_typed_is_kept(bench, changed, words):
    answer = bench.post(reverse("new-build"), NEW | changed)
    page = answer.content.decode()
    assert answer.status_code == 422
    assert words in page
    for text in ("Tern", *(text for name, text in (NEW | changed).items() if name.endswith("_mm"))):
        assert f'value="{text}"' in page


def test_the_block_is_written_back_unchanged_and_keeps_cylinders_that_were_read(bench, whole):
    shown = shown_in_the_form(whole)
    address = reverse("block", args=[whole.pk])
    assert bench.post(address, shown).status_code == 302
    with scope(shop=whole.shop):
        assert Build.objects.get(pk=whole.pk).engine == whole.engine
    refused = bench.post(address, shown | {"cylinders": "1"})
    assert refused.status_code == 422
    assert "has readings" in refused.content.decode()


def test_the_stand_shows_each_builds_tightest_margin_and_next_thing(bench, whole, built):
    page = words(bench.get(reverse("builds")))
    assert "Quench 1: 41 ±2, wants 35–45" in page  # 4 thou of margin: the tightest of all
    assert "Find TDC and set the degree wheel." in page


def test_the_verdict_page_shows_figure_minimum_margin_state_and_trail(bench, whole):
    page = bench.get(reverse("verdict", args=[whole.pk]) + "?check=intake-1").content.decode()
    for part in (
        "95 ±8.5, wants 80",
        "+15",
        "Every required check is clear",
        "as read, thinnest of 3",
        "as it will run",
    ):
        assert part in page


def test_an_edited_limit_is_seen_with_its_reason_and_by_whom(bench, whole):
    address = reverse("verdict", args=[whole.pk])
    bench.post(address, {"change": "1", "limit": "face_intake", "length": "0.100", "reason": "cam card"})
    page = bench.get(address).content.decode()
    assert "instead of 80 thou. cam card" in page
    assert "95 ±8.5, wants 100" in page
    assert "(edited)" in page
    refused = bench.post(address, {"change": "1", "limit": "quench_low", "length": "60", "reason": "no"})
    assert "is below the lower one" in refused.content.decode()


def test_a_ratio_limit_is_a_plain_number(bench, whole):
    address = reverse("verdict", args=[whole.pk])
    bench.post(address, {"change": "1", "limit": "ratio_high", "length": "9.1", "reason": "fuel"})
    assert "wants at most 9.10" in bench.get(address).content.decode()


def test_another_margin_sheet_judges_anew(bench, whole):
    address = reverse("verdict", args=[whole.pk])
    bench.post(address, {"choose": "1", "limits": "careful"})
    assert "wants 120" in bench.get(address).content.decode()
    assert bench.post(address, {"choose": "1", "limits": "none of them"}).status_code == 422


def test_pages_take_at_most_a_dozen_queries_however_many_readings(bench, member, django_assert_max_num_queries):
    small, large = making.read_build(member), making.read_build(member, cylinders=12, valves=2, slices=8)
    for built in (small, large):
        for name in BUILD_PAGES:
            with django_assert_max_num_queries(12):
                assert bench.get(reverse(name, args=[built.pk])).status_code == 200
    with django_assert_max_num_queries(12):
        bench.get(reverse("builds"))


def test_the_policy_forbids_inline_script_and_foreign_hosts(bench, whole):
    answer = bench.get(reverse("verdict", args=[whole.pk]))
    policy = answer["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe-inline" not in policy
    assert "http" not in policy


def test_an_exported_build_is_judged_by_the_command_line_as_by_the_page(bench, whole, tmp_path, capsys):
    exported = bench.get(reverse("export", args=[whole.pk]))
    assert exported["Content-Disposition"] == 'attachment; filename="bittern.job.json"'
    file = tmp_path / "bittern.job.json"
    file.write_bytes(exported.content)
    assert check.main([str(file), "--json"]) == 0
    printed = json.loads(capsys.readouterr().out)
    with scope(shop=whole.shop):
        assert printed == json.loads(json.dumps(report_data(evaluate(assemble(whole)))))


def test_a_build_goes_out_and_comes_back_the_same(bench, whole, member):
    exported = bench.get(reverse("export", args=[whole.pk])).content.decode()
    address = taken_in(bench, exported).url
    with scope(shop=member.shop):
        copy = Build.objects.exclude(pk=whole.pk).get()
        before, after = read_job(exported), assemble(copy)
    assert address == reverse("verdict", args=[copy.pk])
    assert [(c.label, c.figure, c.state) for c in evaluate(before).checks] == [
        (c.label, c.figure, c.state) for c in evaluate(after).checks
    ]


@pytest.mark.parametrize("text", [b"\xff\xfe", "{}", "not json", '{"format": "astute-mole/job", "version": 9}'])
def test_a_file_that_is_no_job_is_refused_with_its_faults(bench, text, member):
    answer = taken_in(bench, text)
    assert answer.status_code == 422
    assert "not imported" in answer.content.decode()
    with scope(shop=member.shop):
        assert not Build.objects.exists()


def test_the_shops_of_an_imported_file_is_the_importers(stranger, bench, whole):
    exported = bench.get(reverse("export", args=[whole.pk])).content.decode()
    taken_in(stranger, exported)
    assert len(stranger.get(reverse("builds")).context["cards"]) == 1
    assert len(bench.get(reverse("builds")).context["cards"]) == 1


def demo_jobs():
    with scopes_disabled():
        return [write_job(assemble(build)) for build in Build.objects.order_by("pk")]


def without_bookkeeping(text):
    data = json.loads(text)
    for name in (kind.listed for kind in READING_KINDS):
        for entry in data[name]:
            entry.pop("key")
            entry.get("record", {}).pop("at", None)
    return data


def test_the_demo_is_loaded_once_kept_and_started_afresh_the_same(db):
    call_command("load_demo")
    first = [without_bookkeeping(text) for text in demo_jobs()]
    call_command("load_demo")
    assert [without_bookkeeping(text) for text in demo_jobs()] == first
    client = Client()
    assert client.post(reverse("demo-enter")).url == reverse("builds")
    with scopes_disabled():
        Entry.objects.filter(kind="deck").delete()
        Entry.objects.first().delete()
        own = making.build(Person.objects.get(username="ottoline"), name="Visitor")
    client.post(reverse("demo-reset"))
    assert [without_bookkeeping(text) for text in demo_jobs()[-4:]] == first
    assert Shop.objects.count() == 1
    # What a visitor began, and what was made of the demo's builds, is kept.
    with scopes_disabled():
        kept = set(Build.objects.values_list("name", flat=True))
    assert {own.name, "Bittern, as it was", "Plover, as it was", "Bittern"} <= kept
    assert "kept as they were" in words(client.get(reverse("builds")))


def test_the_demo_holds_one_clear_one_too_close_one_short_with_a_remedy_and_one_barely_begun(db):
    call_command("load_demo")
    bittern, wren, lapwing, plover = (evaluate(read_job(text)) for text in demo_jobs())
    assert lapwing.verdict == "clear"
    assert [check.label for check in bittern.checks if check.state == "too close to call"] == ["Exhaust 6"]
    assert [check.label for check in wren.checks if check.state != "clear" and check.required] == ["Exhaust 1a"]
    limits = ShopLimits(cam_deg=(5.0,), cuts_mm={RELIEF_DEEPENED: 1.0})
    assert {plan.levers for plan in remedies(wren, limits).plans} >= {
        (Lever(CAM_MOVED),),
        (Lever(RELIEF_DEEPENED, Side.EXHAUST),),
    }
    assert len(plover.deck) == 1
    assert not plover.job.mockups


def test_an_address_with_a_number_no_table_holds_is_404(bench):
    assert bench.get(f"/builds/{10**30}/deck/").status_code == 404


def test_an_edge_is_not_offered_on_a_flat_crown_and_its_missing_minimum_is_said(bench, member):
    built = making.build(member, intake_relief="flat")
    making.mockup(built, member)
    page = bench.get(reverse("clay", args=[built.pk])).content.decode()
    assert "clay-intake-1-face-0" in page
    assert "clay-intake-1-radial-0" not in page
    assert "clay-exhaust-1-radial-0" in page
    assert "these limits have no minimum; enter the makers’" in words(page)
    limit = {"change": "1", "limit": "radial", "length": "50", "reason": "piston maker"}
    bench.post(reverse("verdict", args=[built.pk]), limit)
    assert "has no minimum" not in words(bench.get(reverse("clay", args=[built.pk])))


@pytest.mark.parametrize("words", list(LIKE))
def test_a_usual_layout_fills_in_what_makes_an_engine_with_the_rest(bench, member, words):
    page = bench.get(reverse("new-build")).content.decode()
    assert words in page
    filled = json.loads(usual_layouts()[words])
    assert set(filled) <= set(BuildForm().fields)
    assert bench.post(reverse("new-build"), NEW | filled).status_code == 302
    with scope(shop=member.shop):
        engine = Build.objects.get(name="Tern").engine
    assert [str(engine.layout), str(engine.cylinders)] == [filled["layout"], filled["cylinders"]]
    assert engine.intake.count == (2 if "16" in words else 1)
