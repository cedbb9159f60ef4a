"""The final assembly station: the list, the signature, a copy for the next build."""

from dataclasses import replace
from typing import Any
from uuid import uuid4

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from mockup.advice.outlook import verdict_text
from mockup.base.faults import Fault, FaultsError, message_of, refuse
from mockup.base.stations import Station
from web.builds import services
from web.builds.customer_links import DAYS, alive, end_link, make_link
from web.builds.entry_kinds import AssemblyItem, BuildSigned
from web.builds.models import SheetLink
from web.entry.without_script import take
from web.page.answers import show
from web.page.assembly_rows import OWN, AssemblyRow, assembly_rows, signatures
from web.page.build_page import BuildPage, build_page_or_404
from web.page.read_fields import Wrong
from web.page.shown_digest import digest_of, refuse_changed
from web.shops.access import member_writes, person_of
from web.shops.asked_again import password_again
from web.shops.models import Person

LONGEST_NOTE = 200
LONGEST_NUMBER = 18
MOST_OWN = 60
MOST_NAMED = 3
MADE_LINK = "made link of build {}"
"""The session key of a link just made, by the number of its build."""


@member_writes
@password_again("link")
def assembly(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the list; edit its items; sign the build; start the next with its block."""
    page = build_page_or_404(build_id)
    wrong: dict[str, Any] = {}
    if request.method == "POST":
        try:
            gone_to = _post(request, page)
        except FaultsError as error:
            fault = error.faults[0]
            wrong[fault.path] = Wrong(request.POST.get(fault.path, "")[:LONGEST_NOTE], message_of(error))
        else:
            return redirect(gone_to)
    note = request.POST.get("note", "")[:LONGEST_NOTE]
    parts = _parts(page) | {
        "wrong": wrong,
        "note": note,
        "answered": request.POST.getlist("open"),
        "link": request.session.pop(MADE_LINK.format(build_id), ""),
    }
    return show(request, page, Station.ASSEMBLY, parts)


def _post(request: HttpRequest, page: BuildPage) -> str:
    """Do what was asked; returns the address to go to. Raises FaultsError."""
    here, by, posted = reverse("assembly", args=[page.build.pk]), person_of(request), request.POST
    if "strike" in posted:
        found = take(request, page, {}, "signature")
        refuse([Fault("reason", one.message) for one in found.values()])
    elif "sign" in posted:
        _sign(page, posted.get("note", ""), request)
    elif "copy" in posted:
        return reverse("block", args=[services.copy_build(page.build, by, posted.get("name", "")).pk])
    elif "link" in posted:
        token = make_link(page.build, by, _number(posted.get("days", "")), posted.get("link_for", ""))
        # Shown once, on the next page.
        request.session[MADE_LINK.format(page.build.pk)] = request.build_absolute_uri(
            reverse("shown-sheet", args=[token])
        )
        return f"{here}#links"
    elif "end-link" in posted:
        _end_link(page, posted["end-link"], by)
        return f"{here}#links"
    elif "add" in posted:
        _add(page, posted.get("words", ""), request)
    else:
        services.write(page.build, _line_posted(request, page), by)
    return here


def _number(text: str) -> int:
    return int(text) if text.isdecimal() and len(text) < LONGEST_NUMBER else 0


def _end_link(page: BuildPage, number: str, by: Person) -> None:
    try:
        end_link(page.build, _number(number), by)
    except SheetLink.DoesNotExist as error:
        raise Http404(number) from error


def _sign(page: BuildPage, note: str, request: HttpRequest) -> None:
    report = page.report
    refuse_changed(request.POST, _shown(page), f"{verdict_text(report)} The list below shows it as it is now.", "note")
    refuse([] if report.ready else [Fault("note", f"{verdict_text(report)} It cannot be signed.")])
    refuse([Fault("note", f"At most {LONGEST_NOTE} characters.")] if len(note) > LONGEST_NOTE else [])
    still_open = _still_open(page)
    answered = set(request.POST.getlist("open"))
    left = [line.words for line in still_open if line.key not in answered]
    if left:
        more = f" And {len(left) - MOST_NAMED} more." if len(left) > MOST_NAMED else ""
        words = f"Still open: {' '.join(left[:MOST_NAMED])}{more}"
        refuse([Fault("open", f"{words} Do and tick them, or mark below that you answer for them.")])
    signed = BuildSigned(
        standing=report.as_it_stands, note=note.strip(), still_open=tuple(line.words for line in still_open)
    )
    services.write(page.build, signed, person_of(request))


def _still_open(page: BuildPage) -> list[AssemblyRow]:
    """Return the items of the list that are neither done nor left out."""
    return [line for line in assembly_rows(page) if not (line.done or line.out)]


def _shown(page: BuildPage) -> str:
    """Return the digest of what is signed: the state of every check, and the list as ticked."""
    lines = (f"{line.key} {line.words} {line.done} {line.out}" for line in assembly_rows(page))
    return digest_of([page.report.as_it_stands, verdict_text(page.report), *lines])


def _add(page: BuildPage, words: str, request: HttpRequest) -> None:
    words = words.strip()
    refuse([] if words else [Fault("words", "Say what is to be done.")])
    own = sum(line.key.startswith(OWN) for line in assembly_rows(page))
    refuse([Fault("words", f"At most {MOST_OWN} items of your own.")] if own >= MOST_OWN else [])
    services.write(page.build, AssemblyItem(key=f"{OWN}{uuid4().hex[:12]}", words=words), person_of(request))


def _line_posted(request: HttpRequest, page: BuildPage) -> AssemblyItem:
    """Return a generated or own item as posted; 404 for one that is not on the list."""
    asked = next((name for name in ("tick", "untick", "leave", "back", "reword") if name in request.POST), "")
    key = request.POST.get(asked, "")
    line = next((line for line in assembly_rows(page) if line.key == key), None)
    if not asked or line is None:
        raise Http404(key)
    kept = AssemblyItem(key=key, words=line.words, done=line.done, out=line.out)
    if asked == "reword":
        words = request.POST.get("words", "").strip()
        refuse([] if words else [Fault("words", "An item needs words; leave it out instead.")])
        return replace(kept, words=words)
    if asked in ("tick", "untick"):
        return replace(kept, done=asked == "tick")
    return replace(kept, out=asked == "leave")


def _parts(page: BuildPage) -> dict[str, Any]:
    lines = assembly_rows(page)
    on = [line for line in lines if not line.out]
    return {
        "folder": "assembly",
        "lines": on,
        "left_out": [line for line in lines if line.out],
        "shown": _shown(page),
        "still_open": _still_open(page),
        "done_count": sum(line.done for line in on),
        "signed": signatures(page),
        "verdict_words": verdict_text(page.report),
        "signed_checks": [check for check in page.report.checks if check.signed],
        "links": alive(page.build),
        "link_days": DAYS,
    }
