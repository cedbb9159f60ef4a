"""The pictures of a build: a page of all, each alone, all as one archive."""

import json
import tempfile
import zipfile
from hashlib import sha256
from typing import Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.cache import get_conditional_response, patch_cache_control
from django.views.decorators.http import require_GET

from mockup.base.faults import Fault, FaultsError, message_of
from mockup.base.stations import Station
from mockup.formats.job_write import write_job
from mockup.formats.table import Table, to_csv
from web.builds.assemble import assemble
from web.builds.entry_kinds import is_reading, words_of
from web.builds.models import Entry
from web.page.answers import frame
from web.page.build_page import BuildPage, build_page_or_404
from web.page.log_words import where_of
from web.pictures.decoding import MOST_BYTES, TYPES
from web.pictures.models import LONGEST_WORDS, Evidence, Picture, bytes_of
from web.pictures.services import MOST_OF_A_BUILD, change, keep_picture, remove
from web.shops.access import member_writes, person_of
from web.shops.clock import stamp

COLUMNS = ("file", "words", "by", "at", "mock-up", "shows", "marks (px)", "removed")
MOST_AT_ONCE = 20
LONGEST_NUMBER = 18
MOST_READINGS = 300
"""How many readings are offered for a picture: the newest."""


@member_writes
def pictures(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show a build's pictures; add, caption, print on the build sheet, remove."""
    page = build_page_or_404(build_id)
    wrong: dict[str, str] = {}
    if request.method == "POST":
        wrong = _posted(request, page)
        if not wrong:
            return redirect("pictures", build_id)
    return render(request, "sheets/pictures.html", _context(request, page, wrong), status=422 if wrong else 200)


def _posted(request: HttpRequest, page: BuildPage) -> dict[str, str]:
    if "picture" in request.POST:
        picture = _picture(page, request.POST["picture"])
        try:
            if "remove" in request.POST:
                remove(picture, person_of(request), request.POST.get("reason", ""))
            else:
                change(picture, words=request.POST.get("words"), on_sheet="on_sheet" in request.POST)
        except FaultsError as error:
            return {str(picture.pk): message_of(error)}
        return {}
    return _taken_in(request, page)


def _taken_in(request: HttpRequest, page: BuildPage) -> dict[str, str]:
    files = request.FILES.getlist("pictures")
    if not files:
        return {"new": "Choose one picture or several."}
    if len(files) > MOST_AT_ONCE:
        return {"new": f"At most {MOST_AT_ONCE} pictures at once; these are {len(files)}."}
    try:
        of = _of(page, request.POST.get("of", ""))
    except FaultsError as error:
        return {"new": message_of(error)}
    refused = []
    for upload in files:
        try:
            words = request.POST.get("words", "")
            keep_picture(page.build, person_of(request), upload, upload.size or 0, words=words, **of)
        except FaultsError as error:
            refused.append(f"{(upload.name or 'a picture')[:60]}: {message_of(error)}")
    taken = len(files) - len(refused)
    if refused and taken:
        messages.info(request, f"{taken} of {len(files)} pictures added.")
    return {"new": " ".join(refused)} if refused else {}


def _of(page: BuildPage, text: str) -> dict[str, Any]:
    """Return what a picture belongs to, from the form: a mock-up, a reading, or the build."""
    sort, _, name = text.partition("-")
    if not text:
        return {}
    if sort == "mockup" and name in {mockup.letter for mockup in page.mockups}:
        return {"mockup": name}
    found = name.isdecimal() and len(name) <= LONGEST_NUMBER and Entry.objects.filter(pk=int(name), build=page.build)
    entry = found.first() if sort == "entry" and found else None
    if entry is None:
        raise FaultsError([Fault("of", "What it belongs to is no longer in this build. Choose again.")])
    return {"entry": entry, "mockup": str(entry.data.get("mockup", ""))[:3]}


def _picture(page: BuildPage, number: str) -> Picture:
    if not number.isdecimal() or len(number) > LONGEST_NUMBER:
        raise Http404
    found: Picture = get_object_or_404(Picture, pk=int(number), build=page.build, removed_at=None)
    return found


def _context(request: HttpRequest, page: BuildPage, wrong: dict[str, str]) -> dict[str, Any]:
    log = {row.pk: row for row in page.log}
    every = [(one, [_named(log[entry], page) for entry in entries]) for one, entries in page.pictures]
    readings = [row for row in reversed(page.log) if is_reading(row.kind) and not row.struck_reason]
    return {
        **frame(page, Station.ASSEMBLY),
        "pictures": [(one, shows, wrong.get(str(one.pk), "")) for one, shows in every],
        "standing": sum(one.removed_at is None for one, _ in every),
        "most": MOST_OF_A_BUILD,
        "longest": LONGEST_WORDS,
        "megabytes": MOST_BYTES // 1_000_000,
        "accept": ",".join(f"image/{name.lower()}" for name in (*TYPES, "HEIC")),
        "may_be_of": [
            *((f"mockup-{mockup.letter}", f"mock-up {mockup.letter}") for mockup in page.mockups),
            *((f"entry-{row.pk}", _named(row, page)) for row in readings[:MOST_READINGS]),
        ],
        "of": request.POST.get("of") or request.GET.get("of", ""),
        "words": request.POST.get("words", "")[:LONGEST_WORDS] if "new" in wrong else "",
        "wrong": wrong.get("new", ""),
    }


def _named(row: Entry, page: BuildPage) -> str:
    struck = ", struck out" if row.struck_reason else ""
    return f"{words_of(row.kind)} {where_of(row, page)} “{row.typed}”{struck}".replace("  ", " ")


@require_GET
def picture_file(request: HttpRequest, build_id: int, picture_id: int, size: str = "whole") -> HttpResponse:
    """Return one picture's bytes; 404 for another shop's, and for a removed one."""
    picture = get_object_or_404(Picture, pk=picture_id, build__pk=build_id, removed_at=None)
    file = picture.small if size == "small" else picture.file
    # The browser caches it, and asks each time whether it still may; its name is unique to this content.
    mark = f'"{sha256(str(file.name).encode()).hexdigest()[:32]}"'
    answer = get_conditional_response(request, etag=mark) or HttpResponse(bytes_of(file), content_type="image/jpeg")
    answer["ETag"] = mark
    patch_cache_control(answer, private=True, no_cache=True)
    answer["Content-Disposition"] = f'inline; filename="picture-{picture.pk}.jpg"'
    return answer


@require_GET
def pictures_zip(request: HttpRequest, build_id: int) -> FileResponse:  # noqa: ARG001
    """Return the job file, every picture, and a table of what each shows."""
    page = build_page_or_404(build_id)
    file = tempfile.TemporaryFile()  # noqa: SIM115, the answer closes it
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr("job.json", write_job(assemble(page.build)), zipfile.ZIP_DEFLATED)
        archive.writestr("pictures.csv", _table(page, archive), zipfile.ZIP_DEFLATED)
    file.seek(0)
    return FileResponse(file, as_attachment=True, filename=f"build-{page.build.pk}-pictures.zip")


def _table(page: BuildPage, archive: zipfile.ZipFile) -> str:
    log = {row.pk: row for row in page.log}
    marked: dict[int, list[str]] = {}
    for one in Evidence.objects.filter(picture__build=page.build, marks__isnull=False):
        marked.setdefault(one.picture_id, []).append(json.dumps(one.marks))
    rows = []
    for picture, entries in page.pictures:
        name = "" if picture.removed_at else f"picture-{picture.pk}.jpg"
        if name:
            archive.writestr(name, bytes_of(picture.file))
        shows = "; ".join(_named(log[entry], page) for entry in entries)
        marks = "; ".join(marked.get(picture.pk, []))
        whose = (picture.by.shown_name, stamp(picture.at), picture.mockup)
        rows.append((name, picture.words, *whose, shows, marks, picture.removed_reason))
    return to_csv(Table("pictures", COLUMNS, tuple(rows)))
