"""Files in: previewed, then imported completely or not at all, with reasons."""

import csv
import io
import json

import openpyxl
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone
from django_scopes import scope, scopes_disabled

from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT
from mockup.readings.clay import ClayReading
from tests import making_rows as making
from tests.web import words
from tests.web.asking import taken_in
from web.builds import services
from web.builds.assemble import assemble
from web.builds.models import Build, Entry
from web.exchange import uploads
from web.exchange.models import Upload

CLAY = "place;mockup;thickness (thou);read by;read at;typed\nI1;A;104,5;Rosalind;2026-11-02T10:00:00;104.5\n"


def send(client, built, text=None, file=None):
    sent = {"file": file} if file else {"pasted": text}
    return client.post(reverse("readings-in", args=[built.pk]), sent)


def lines(built):
    with scopes_disabled():
        return Entry.objects.filter(build=built).count()


def test_a_table_is_looked_at_and_then_taken_in_with_who_read_it(bench, member, whole):
    before = lines(whole)
    look = send(bench, whole, CLAY).url
    page = bench.get(look)
    assert "1 reading understood" in words(page)
    assert "0.1045 in · 2.654 mm" in words(page)
    assert lines(whole) == before, "looking takes nothing in"
    assert bench.post(look).url == reverse("verdict", args=[whole.pk])
    with scope(shop=member.shop):
        last = assemble(whole).of(ClayReading)[-1]
    assert (last.record.by, last.record.at, last.record.typed) == ("Rosalind", "2026-11-02T10:00:00", "104.5")
    assert "1 reading imported" in words(bench.get(reverse("verdict", args=[whole.pk])))
    assert bench.get(look).status_code == 404, "it is taken in once"


def test_nothing_of_a_table_with_a_fault_comes_in(bench, whole):
    before = lines(whole)
    look = send(bench, whole, "place;mockup;thickness (thou)\nI1;A;104\nE9;A;98\nI2;B;98\n").url
    page = words(bench.get(look))
    assert "2 rows not understood" in page
    assert "3 cylinder There is no cylinder 9" in page
    assert "4 mockup There is no mock-up called B" in page
    assert "1 reading understood" in page
    assert "Import the reading" not in page
    bench.post(look)
    assert lines(whole) == before


@pytest.mark.parametrize("name", ["readings-csv", "workbook"])
def test_what_goes_out_of_one_build_comes_into_another(bench, member, whole, name):
    with scope(shop=member.shop):
        services.strike(making.lines(whole, "clay")[0], member, "=dented, “so”")
        bare = making.read_build(member, cylinders=2, slices=0)
    content = bench.get(reverse(name, args=[whole.pk])).content
    look = send(bench, bare, file=SimpleUploadedFile("readings.csv", content)).url
    assert bench.post(look).status_code == 302
    with scope(shop=member.shop):
        mine, theirs = (assemble(build) for build in (whole, bare))
    plain = [sorted((r.place, r.thickness_mm, r.record.struck) for r in job.of(ClayReading)) for job in (mine, theirs)]
    assert plain[0] == plain[1]
    assert any(struck == "=dented, “so”" for _, _, struck in plain[1])


def test_a_workbook_opens_in_another_reader_with_formulas_in_it(bench, whole):
    answer = bench.get(reverse("workbook", args=[whole.pk]))
    assert answer["Content-Disposition"] == 'attachment; filename="bittern.xlsx"'
    log = openpyxl.load_workbook(io.BytesIO(answer.content))
    assert {"Inputs", "Ratio", "Quench", "Corrections", "Verdict", "deck", "clay"} <= set(log.sheetnames)
    assert str(log["Ratio"]["I2"].value).startswith("=")


@pytest.mark.parametrize(
    ("sent", "said"),
    [
        ({}, "Choose a file or paste a table"),
        ({"pasted": "x" * 200_001}, "at most 200000 characters"),
        ({"file": SimpleUploadedFile("a.xlsx", b"PK\x03\x04 no zip")}, "This workbook (xlsx) cannot be read"),
        ({"file": SimpleUploadedFile("a.csv", b"\xff\xfe\x00")}, "not readable text"),
    ],
)
def test_what_is_no_table_is_said_and_what_was_pasted_stays(bench, whole, sent, said):
    answer = bench.post(reverse("readings-in", args=[whole.pk]), sent)
    assert answer.status_code == 422
    assert said in words(answer)


def test_a_reading_from_before_a_change_that_is_done_stays_out(bench, member, whole):
    with scope(shop=member.shop):
        cut = Change(key="", kind=DECK_CUT, front_mm=0.1, rear_mm=0.1)
        services.mark_done(whole, services.write(whole, cut, member), member)
        letter = assemble(whole).mockups[-1].key
    before = lines(whole)
    look = send(bench, whole, f"place,mockup,thickness (thou),after\nI1,{letter},104,7\n").url
    answer = bench.post(look)
    assert answer.status_code == 422
    assert "it is of another engine" in words(answer)
    assert lines(whole) == before


def test_another_person_and_another_shop_never_see_what_was_sent(bench, viewer, stranger, member, whole):
    look = send(bench, whole, CLAY).url
    second = making.person("second")
    other = type(bench)()
    other.force_login(second)
    assert [client.get(look).status_code for client in (bench, other, stranger, viewer)] == [200, 404, 404, 403]


def test_what_was_sent_is_thrown_away_after_a_day(bench, whole):
    look = send(bench, whole, CLAY).url
    with scopes_disabled():
        Upload.objects.update(at=timezone.now() - uploads.KEPT)
    send(bench, whole, CLAY)
    assert bench.get(look).status_code == 404


def exported(bench, build):
    return bench.get(reverse("export", args=[build.pk])).content.decode()


def test_several_job_files_are_shown_and_taken_in_together_but_for_those_with_faults(bench, member, whole, built):
    files = [exported(bench, whole).encode(), exported(bench, built).encode(), b"{}", b"\xff\xfe"]
    sent = [SimpleUploadedFile(f"{at}.json", content) for at, content in enumerate(files)]
    look = bench.post(reverse("import"), {"file": sent}).url
    page = words(bench.get(look))
    assert "12 clay" in page
    assert "Its verdict would be clear" in page
    assert "There is already a build with this name" in page
    assert "2.json: not imported" in page
    assert "3.json: not imported, 1 fault" in page
    with scope(shop=member.shop):
        assert Build.objects.count() == 2
        assert bench.post(look).url == reverse("builds")
        assert Build.objects.count() == 4


def test_all_files_with_faults_are_told_at_once(bench, member):
    sent = [SimpleUploadedFile(f"{at}.json", text) for at, text in enumerate([b"{}", b"\xff", b"[]"])]
    answer = bench.post(reverse("import"), {"file": sent})
    assert answer.status_code == 422
    for at in range(3):
        assert f"{at}.json: not imported" in words(answer)


def test_none_of_several_comes_in_where_rows_cannot_hold_one(bench, member, whole):
    data = json.loads(exported(bench, whole))
    data["instruments"] = [{"key": "mine", "name": "mine", "resolution": "0.01 mm", "accuracy": "0.01 mm"}]
    data["clay"][0]["instrument"] = "mine"
    answer = taken_in(bench, exported(bench, whole), json.dumps(data))
    assert answer.status_code == 422
    assert "not on this shop’s list" in words(answer)
    with scope(shop=member.shop):
        assert Build.objects.count() == 1


def test_the_readings_out_are_a_table_any_reader_reads(bench, whole):
    text = bench.get(reverse("readings-csv", args=[whole.pk])).content.decode()
    rows = list(csv.DictReader(io.StringIO(text)))
    assert {row["kind"] for row in rows} >= {"deck", "clay", "volume"}
