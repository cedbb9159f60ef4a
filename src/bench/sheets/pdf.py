"""A sheet as a PDF: set in type beside the serving, at one address that says how far it is until it is there."""

import re
from collections.abc import Callable
from datetime import timedelta
from hashlib import sha256

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django_scopes import scopes_disabled

from bench.sheets.models import PrintedSheet
from bench.sheets.tasks import print_sheet
from bench.sheets.typeset import typeset
from bench.shops.models import Person

ANEW_AFTER = timedelta(seconds=60)
"""A sheet set longer ago is set anew: it says when it was made."""
NOBODY_COMES = timedelta(seconds=15)
"""So long a sheet waits to be begun; then the worker is not there, and whoever waits for it has it set here."""
GIVEN_UP = timedelta(minutes=2)
"""No sheet takes so long: whoever began it did not live to end it."""
LOOK_AGAIN_S = 1


def as_pdf(request: HttpRequest, called: str, by: Person, seen: str, html: Callable[[], str]) -> HttpResponse:
    """The sheet ``html`` makes as a PDF called after ``called``, on the paper of the shop of ``by``.

    While it is being set, a page (202) that asks for the same address again, by itself and without any script.
    ``seen`` is what its build is as, and what else the sheet is of: a build that changes has another sheet.
    """
    sheet = _asked_before(request, by, seen) or _asked(request, by, seen, html)
    waited = timezone.now() - sheet.asked_at
    if sheet.pdf is None and (sheet.failed or (sheet.begun_at is None and waited > NOBODY_COMES)):
        # Beside the serving nothing comes of it: what is wrong with it is found here, or nothing is.
        sheet.begun_at, sheet.pdf = timezone.now(), typeset(sheet.html, sheet.paper)
        sheet.save(update_fields=["begun_at", "pdf"])
    if sheet.pdf is None:
        answer = render(request, "sheets/being_set.html", {"sheet": sheet, "before": _before(sheet)}, status=202)
        answer["Refresh"] = str(LOOK_AGAIN_S)
        answer["Cache-Control"] = "no-store"
        return answer
    name = re.sub(r"[^a-z0-9]+", "-", called.lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'inline; filename="{name}.pdf"', "Cache-Control": "no-store"}
    return HttpResponse(bytes(sheet.pdf), content_type="application/pdf", headers=headers)


def _mark(request: HttpRequest, by: Person, seen: str) -> str:
    # Its address without a query: what the query says of a sheet is in ``seen``.
    return sha256(f"{request.path} {by.pk} {seen}".encode()).hexdigest()


def _asked_before(request: HttpRequest, by: Person, seen: str) -> PrintedSheet | None:
    """The same sheet, asked for a moment ago: being set, or just set."""
    found: PrintedSheet | None = PrintedSheet.objects.filter(mark=_mark(request, by, seen)).last()
    if found is None:
        return None
    kept = ANEW_AFTER if found.pdf is not None else GIVEN_UP
    return found if timezone.now() - (found.begun_at or found.asked_at) < kept else None


def _asked(request: HttpRequest, by: Person, seen: str, html: Callable[[], str]) -> PrintedSheet:
    shop, mark = by.shop, _mark(request, by, seen)
    assert shop is not None, "somebody of no shop has no build"
    sheet: PrintedSheet = PrintedSheet.objects.create(shop=shop, mark=mark, html=html(), paper=shop.paper)
    print_sheet.enqueue(sheet.pk)
    sheet.refresh_from_db()
    return sheet


def _before(sheet: PrintedSheet) -> int:
    """How many sheets of all shops are to be set before this one [1]."""
    if sheet.begun_at is not None:
        return 0
    with scopes_disabled():
        waiting = PrintedSheet.objects.filter(pk__lt=sheet.pk, pdf=None, failed=False)
        return waiting.filter(asked_at__gt=timezone.now() - GIVEN_UP).count()
