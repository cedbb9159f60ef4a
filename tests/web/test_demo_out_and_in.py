"""Every demo build goes out as CSV, workbook and job file, and comes in the same."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client
from django.urls import reverse
from django_scopes import scopes_disabled

from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.readings_in import readings_in
from mockup.readings.clay import ClayReading
from mockup.words.report_text import report_text
from tests.web import words
from web.builds.assemble import assemble
from web.builds.models import Build
from web.exchange.uploads import tables_of
from web.shops.models import Person


@pytest.fixture
def demo(db):
    """Somebody of the demo's shop, and its builds."""
    call_command("load_demo")
    client = Client()
    with scopes_disabled():
        client.force_login(Person.objects.get(username="ottoline"))
        return client, list(Build.objects.all())


def file_of(client, build, name):
    answer = client.get(reverse(name, args=[build.pk]))
    return SimpleUploadedFile(answer["Content-Disposition"].split('"')[1], answer.content)


def test_every_build_comes_in_as_it_went_out(demo):
    client, builds = demo
    tables = 0
    for build in builds:
        with scopes_disabled():
            job = assemble(build)
        for name in ("readings-csv", "workbook"):
            if not job.readings:
                continue
            found = readings_in(tables_of(file_of(client, build, name)), job)
            assert found.is_whole, (str(build), name, found.faults, [row.faults for row in found.rows if row.faults])
            assert len(found.readings) == len(job.readings)
            tables += 1
        back = read_job(client.get(reverse("export", args=[build.pk])).content.decode())
        assert report_text(evaluate(back)) == report_text(evaluate(job)), str(build)
    assert tables > 6


def test_a_builds_own_csv_is_taken_in_by_its_page(demo):
    client, builds = demo
    build = next(one for one in builds if "Bittern" in one.name)
    look = client.post(reverse("readings-in", args=[build.pk]), {"file": file_of(client, build, "readings-csv")})
    assert look.status_code == 302
    assert "understood" in words(client.get(look.url))


@pytest.mark.parametrize("encoding", ["utf-16", "utf-16-le", "latin-1", "utf-8-sig"])
def test_a_csv_is_read_as_spreadsheets_write_it(bench, whole, encoding):
    text = "place;mockup;thickness (thou);read by\nI1;a;104,5;Zoë\n"
    file = SimpleUploadedFile("readings.csv", text.encode(encoding))
    look = bench.post(reverse("readings-in", args=[whole.pk]), {"file": file}).url
    assert "1 reading understood" in words(bench.get(look))
    bench.post(look)
    with scopes_disabled():
        assert assemble(whole).of(ClayReading)[-1].record.by == "Zoë"
