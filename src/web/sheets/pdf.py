"""A sheet as a PDF, made beside the server, at one address that shows progress."""

import re
from collections.abc import Callable
from datetime import timedelta
from hashlib import sha256

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django_scopes import scopes_disabled

from web.sheets.models import PrintedSheet
from web.sheets.tasks import print_sheet
from web.sheets.typeset import typeset
from web.shops.models import Person

ANEW_AFTER = timedelta(seconds=60)
"""A PDF made longer ago is made again, since it states its time."""
NOBODY_COMES = timedelta(seconds=15)
"""A PDF waits this long to be begun; then the worker is not running, and the request makes it itself."""
GIVEN_UP = timedelta(minutes=2)
"""No PDF takes this long: the process that began it was killed."""
LOOK_AGAIN_S = 1


def as_pdf(request: HttpRequest, called: str, by: Person, seen: str, html: Callable[[], str]) -> HttpResponse:
    """Return the sheet ``html`` as a PDF named ``called``, on the paper of ``by``'s shop.

    While it is being made, return a page (202) that asks for the same address again, without script. ``seen``: the
    version of its build, and everything else the sheet depends on.
    """
    sheet = _asked_before(request, by, seen) or _asked(request, by, seen, html)
    waited = timezone.now() - sheet.asked_at
    if sheet.pdf is None and (sheet.failed or (sheet.begun_at is None and waited > NOBODY_COMES)):
        # Render here: an error found by the worker would reach nobody.
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
    # The address without its query: what the query changes is in ``seen``.
    return sha256(f"{request.path} {by.pk} {seen}".encode()).hexdigest()


def _asked_before(request: HttpRequest, by: Person, seen: str) -> PrintedSheet | None:
    """Return the same sheet, asked for a moment ago: being made, or just made."""
    found: PrintedSheet | None = PrintedSheet.objects.filter(mark=_mark(request, by, seen)).last()
    if found is None:
        return None
    kept = ANEW_AFTER if found.pdf is not None else GIVEN_UP
    return found if timezone.now() - (found.begun_at or found.asked_at) < kept else None


def _asked(request: HttpRequest, by: Person, seen: str, html: Callable[[], str]) -> PrintedSheet:
    shop, mark = by.shop, _mark(request, by, seen)
    assert shop is not None, "a person without a shop has no build"
    sheet: PrintedSheet = PrintedSheet.objects.create(shop=shop, mark=mark, html=html(), paper=shop.paper)
    print_sheet.enqueue(sheet.pk)
    sheet.refresh_from_db()
    return sheet


def _before(sheet: PrintedSheet) -> int:
    """Return how many sheets of all shops are to be made before this one [1]."""
    if sheet.begun_at is not None:
        return 0
    with scopes_disabled():
        waiting = PrintedSheet.objects.filter(pk__lt=sheet.pk, pdf=None, failed=False)
        return waiting.filter(asked_at__gt=timezone.now() - GIVEN_UP).count()
