"""A build out as a job file, and a job file in as a build."""

import re

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from bench.builds.assemble import assemble
from bench.exchange.importing import build_from
from bench.page.bench import Bench, bench_or_404
from bench.page.written import written
from bench.shops.access import members_only, person_of
from mockup.faults import Fault, FaultsError
from mockup.jobfile.read import LONGEST_FILE, read_job
from mockup.jobfile.report_csv import report_csv, table_csv
from mockup.jobfile.write import write_job
from mockup.words import report_text


def _file(bench: Bench, text: str, ending: str, kind: str) -> HttpResponse:
    name = re.sub(r"[^a-z0-9]+", "-", str(bench.build).lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'attachment; filename="{name}.{ending}"', "Cache-Control": "no-store"}
    return HttpResponse(text, content_type=f"{kind}; charset=utf-8", headers=headers)


@require_GET
def export(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001, every view takes the request
    """The build as a job file."""
    found = bench_or_404(build_id)
    return _file(found, write_job(assemble(found.build)), "job.json", "application/json")


@require_GET
def checks_csv(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """The verdict as a table: a line a check, lengths in mm."""
    found = bench_or_404(build_id)
    return _file(found, report_csv({str(found.build): found.report}), "checks.csv", "text/csv")


READING_COLUMNS = ("when", "who", "kind", "where", "mock-up", "what", "struck out")


@require_GET
def readings_csv(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """Everything that was read, struck out or not, as it was typed, in the order it was read."""
    found = bench_or_404(build_id)
    lines = (
        (one.at, one.by, one.kind, one.where, one.mockup, one.what, one.struck)
        for one in written(found)
        if one.is_reading
    )
    return _file(found, table_csv(READING_COLUMNS, lines), "readings.csv", "text/csv")


@require_GET
def report_txt(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """The report as plain text, to paste into a message."""
    found = bench_or_404(build_id)
    return _file(found, report_text(found.report), "txt", "text/plain")


class ImportForm(forms.Form):
    """A job file."""

    file = forms.FileField(label="Job file", max_length=200)


@members_only
def import_build(request: HttpRequest) -> HttpResponse:
    """Read a job file into a new build; every fault in it is shown with its place."""
    form = ImportForm(request.POST or None, request.FILES or None)
    faults: tuple[Fault, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            build = build_from(read_job(_text(form.cleaned_data["file"])), person_of(request))
        except FaultsError as error:
            faults = error.faults
        else:
            return redirect(reverse("verdict", args=[build.pk]))
    wrong = bool(faults or form.errors)
    return render(request, "exchange/import.html", {"form": form, "faults": faults}, status=422 if wrong else 200)


def _text(upload: "UploadedFile[bytes]") -> str:
    if upload.size and upload.size > LONGEST_FILE:
        raise FaultsError([Fault("", "The file is too large to be a job file.")])
    try:
        return str(upload.read(), "utf-8")
    except UnicodeDecodeError as error:
        raise FaultsError([Fault("", "The file is not text in UTF-8.")]) from error
