"""The final assembly station: the list, the signature, and the copy that the next build begins with."""

from dataclasses import replace
from typing import Any
from uuid import uuid4

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from bench.builds import services
from bench.builds.kinds import AssemblyLine, BuildSigned
from bench.builds.links import DAYS, alive, end_link, make_link
from bench.builds.models import SheetLink
from bench.entry.taking import take
from bench.page.assembly import OWN, AssemblyRow, assembly_lines, signatures
from bench.page.bench import Bench, bench_or_404
from bench.page.entering import Wrong
from bench.page.show import show
from bench.page.shown import digest_of, refuse_changed
from bench.shops.access import member_writes, person_of
from bench.shops.asked_again import password_again
from bench.shops.models import Person
from mockup.faults import Fault, FaultsError, message_of, refuse
from mockup.outlook import verdict_text
from mockup.stations import Station

LONGEST_NOTE = 200
LONGEST_NUMBER = 18
MOST_OWN = 60
MOST_NAMED = 3
MADE_LINK = "made link of build {}"
"""In the session: the address just made, by the number of the build it shows."""


@member_writes
@password_again("link")
def assembly(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the list; tick, reword, leave out and add lines; sign the build; begin the next with its block."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Any] = {}
    if request.method == "POST":
        try:
            gone_to = _post(request, bench)
        except FaultsError as error:
            fault = error.faults[0]
            wrong[fault.path] = Wrong(request.POST.get(fault.path, "")[:LONGEST_NOTE], message_of(error))
        else:
            return redirect(gone_to)
    note = request.POST.get("note", "")[:LONGEST_NOTE]
    parts = _parts(bench) | {
        "wrong": wrong,
        "note": note,
        "answered": request.POST.getlist("open"),
        "link": request.session.pop(MADE_LINK.format(build_id), ""),
    }
    return show(request, bench, Station.ASSEMBLY, parts)


def _post(request: HttpRequest, bench: Bench) -> str:
    """Do what was asked; where to go then. Raises FaultsError."""
    here, by, posted = reverse("assembly", args=[bench.build.pk]), person_of(request), request.POST
    if "strike" in posted:
        found = take(request, bench, {}, "signature")
        refuse([Fault("reason", one.message) for one in found.values()])
    elif "sign" in posted:
        _sign(bench, posted.get("note", ""), request)
    elif "copy" in posted:
        return reverse("block", args=[services.copy_build(bench.build, by, posted.get("name", "")).pk])
    elif "link" in posted:
        token = make_link(bench.build, by, _number(posted.get("days", "")), posted.get("link_for", ""))
        # Shown once, on the page that comes next.
        request.session[MADE_LINK.format(bench.build.pk)] = request.build_absolute_uri(
            reverse("shown-sheet", args=[token])
        )
        return f"{here}#links"
    elif "end-link" in posted:
        _end_link(bench, posted["end-link"], by)
        return f"{here}#links"
    elif "add" in posted:
        _add(bench, posted.get("words", ""), request)
    else:
        services.write(bench.build, _line_posted(request, bench), by)
    return here


def _number(text: str) -> int:
    return int(text) if text.isdecimal() and len(text) < LONGEST_NUMBER else 0


def _end_link(bench: Bench, number: str, by: Person) -> None:
    try:
        end_link(bench.build, _number(number), by)
    except SheetLink.DoesNotExist as error:
        raise Http404(number) from error


def _sign(bench: Bench, note: str, request: HttpRequest) -> None:
    report = bench.report
    refuse_changed(request.POST, _shown(bench), f"{verdict_text(report)} The list below shows it as it is now.", "note")
    refuse([] if report.ready else [Fault("note", f"{verdict_text(report)} Nobody signs that.")])
    refuse([Fault("note", f"At most {LONGEST_NOTE} characters.")] if len(note) > LONGEST_NOTE else [])
    still_open = _still_open(bench)
    answered = set(request.POST.getlist("open"))
    left = [line.words for line in still_open if line.key not in answered]
    if left:
        more = f" And {len(left) - MOST_NAMED} more." if len(left) > MOST_NAMED else ""
        words = f"Still open: {' '.join(left[:MOST_NAMED])}{more}"
        refuse([Fault("open", f"{words} Do and tick them, or mark below that you answer for them.")])
    signed = BuildSigned(
        standing=report.as_it_stands, note=note.strip(), still_open=tuple(line.words for line in still_open)
    )
    services.write(bench.build, signed, person_of(request))


def _still_open(bench: Bench) -> list[AssemblyRow]:
    """The lines of the list that are neither done nor left out."""
    return [line for line in assembly_lines(bench) if not (line.done or line.out)]


def _shown(bench: Bench) -> str:
    """The digest of what somebody signs: how every check stands, and the list as it is ticked."""
    lines = (f"{line.key} {line.words} {line.done} {line.out}" for line in assembly_lines(bench))
    return digest_of([bench.report.as_it_stands, verdict_text(bench.report), *lines])


def _add(bench: Bench, words: str, request: HttpRequest) -> None:
    words = words.strip()
    refuse([] if words else [Fault("words", "Say what is to be done.")])
    own = sum(line.key.startswith(OWN) for line in assembly_lines(bench))
    refuse([Fault("words", f"At most {MOST_OWN} lines of your own.")] if own >= MOST_OWN else [])
    services.write(bench.build, AssemblyLine(key=f"{OWN}{uuid4().hex[:12]}", words=words), person_of(request))


def _line_posted(request: HttpRequest, bench: Bench) -> AssemblyLine:
    """A made or own line as it is to be from now on; 404 for one that is not on the list."""
    asked = next((name for name in ("tick", "untick", "leave", "back", "reword") if name in request.POST), "")
    key = request.POST.get(asked, "")
    line = next((line for line in assembly_lines(bench) if line.key == key), None)
    if not asked or line is None:
        raise Http404(key)
    kept = AssemblyLine(key=key, words=line.words, done=line.done, out=line.out)
    if asked == "reword":
        words = request.POST.get("words", "").strip()
        refuse([] if words else [Fault("words", "A line says something; leave it out instead.")])
        return replace(kept, words=words)
    if asked in ("tick", "untick"):
        return replace(kept, done=asked == "tick")
    return replace(kept, out=asked == "leave")


def _parts(bench: Bench) -> dict[str, Any]:
    lines = assembly_lines(bench)
    on = [line for line in lines if not line.out]
    return {
        "folder": "assembly",
        "lines": on,
        "left_out": [line for line in lines if line.out],
        "shown": _shown(bench),
        "still_open": _still_open(bench),
        "done_count": sum(line.done for line in on),
        "signed": signatures(bench),
        "verdict_words": verdict_text(bench.report),
        "signed_checks": [check for check in bench.report.checks if check.signed],
        "links": alive(bench.build),
        "link_days": DAYS,
    }
