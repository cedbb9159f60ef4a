"""A sheet as a PDF takes seconds: made beside the server, with its progress shown."""

from datetime import timedelta

import pypdfium2
import pytest
from django.urls import reverse
from django.utils import timezone
from django_scopes import scope, scopes_disabled
from django_tasks_db.models import DBTaskResult

from tests import making_rows as making
from tests.web import words
from web.sheets import pdf, tasks
from web.sheets.models import PrintedSheet


@pytest.fixture
def queue(settings):
    """The queue as it is when a shop is served, with nobody who works it off."""
    settings.TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
    return DBTaskResult.objects


def asked(client, build):
    return client.get(reverse("sheet-pdf", args=[build.pk]))


def sheets():
    with scopes_disabled():
        return list(PrintedSheet.objects.all())


def older(by, **fields):
    with scopes_disabled():
        PrintedSheet.objects.update(**{name: timezone.now() - by for name in fields or {"asked_at": ()}})


def test_it_waits_in_the_queue_and_is_there_once_somebody_has_set_it(bench, whole, queue):
    waiting = asked(bench, whole)
    assert (waiting.status_code, waiting["Refresh"]) == (202, "1")
    assert "This page turns into the PDF by itself" in words(waiting)
    assert asked(bench, whole).status_code == 202
    assert queue.count() == len(sheets()) == 1, "looking again asks for nothing"
    tasks.print_sheet.call(sheets()[0].pk)
    done = asked(bench, whole)
    assert (done.status_code, done["Content-Type"]) == (200, "application/pdf")
    assert done.content.startswith(b"%PDF-")
    tasks.print_sheet.call(sheets()[0].pk)
    assert bytes(sheets()[0].pdf) == done.content, "set once"


def test_a_build_that_changes_meanwhile_has_another_sheet(bench, member, whole, queue):
    asked(bench, whole)
    with scope(shop=member.shop):
        making.save(whole, member, name="Bittern II")
    assert asked(bench, whole).status_code == 202
    assert len(sheets()) == 2


def test_it_says_how_many_are_before_it(bench, whole, built, queue):
    asked(bench, built)
    assert "1 other before it" in words(asked(bench, whole))


def test_where_nobody_works_the_queue_off_whoever_waits_has_it_set(bench, whole, queue):
    asked(bench, whole)
    older(pdf.NOBODY_COMES + timedelta(seconds=1))
    assert asked(bench, whole).content.startswith(b"%PDF-")


def test_what_somebody_began_and_did_not_live_to_end_is_asked_for_again(bench, whole, queue):
    asked(bench, whole)
    older(pdf.GIVEN_UP, asked_at=1, begun_at=1)
    assert asked(bench, whole).status_code == 202
    assert [sheet.begun_at is None for sheet in sheets()] == [False, True]


def test_an_old_one_is_set_anew_and_thrown_away(bench, whole):
    first = asked(bench, whole).content
    assert asked(bench, whole).content == first
    older(pdf.ANEW_AFTER, begun_at=1)
    asked(bench, whole)
    assert len(sheets()) == 2
    older(tasks.KEPT, asked_at=1, begun_at=1)
    asked(bench, whole)
    assert len(sheets()) == 1, "and the new one"


def test_what_cannot_be_set_is_a_fault_with_a_number_and_not_a_page_that_waits_for_ever(bench, whole, monkeypatch):
    def fails(*_):
        raise ValueError("no ink")

    for module in (pdf, tasks):
        monkeypatch.setattr(module, "typeset", fails)
    bench.raise_request_exception = False
    answer = asked(bench, whole)
    assert answer.status_code == 500
    assert sheets()[0].failed


def test_another_person_is_never_answered_with_this_ones(bench, viewer, stranger, whole):
    asked(bench, whole)
    assert asked(stranger, whole).status_code == 404
    assert asked(viewer, whole).status_code == 200
    assert len({sheet.mark for sheet in sheets()}) == 2


def test_the_first_page_of_the_pdf_reads_as_it_is_meant(bench, whole):
    """By PDFium, which knows nothing of the page it was made of."""
    page = pypdfium2.PdfDocument(bench.get(reverse("sheet-pdf", args=[whole.pk])).content)[0].get_textpage()
    lines = page.get_text_bounded().splitlines()
    assert any(line.startswith("Judged by") for line in lines), "no word of it stands alone"
    assert not [line for line in lines if "clear not required" in line], "the state, and below it what is less"
    # What readers of screens alone need has no letters as large as the others.
    seen = [rect for at in range(page.count_rects()) if (rect := page.get_rect(at))[2] - rect[0] > 2]
    heads = [rect for rect in seen if page.get_text_bounded(*rect).strip() == "Every check"]
    assert len(heads) == 1
