"""Import job files as builds, and tables of readings: previewed, then all or nothing."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django import forms
from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import Q, Value
from django.db.models.functions import Concat
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from mockup.base.faults import Fault, FaultsError
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.readings_in import Understood, readings_in
from mockup.formats.readings_out import reading_words
from mockup.formats.table import from_csv
from mockup.job import Job
from mockup.readings.kinds import READING_KINDS
from mockup.words.report_text import engine_line
from web.builds.models import Build
from web.exchange.import_job import build_from, write_readings
from web.exchange.uploads import MOST_FILES, as_tables, as_text, forget, keep, kept, tables_of, text_of
from web.page.build_page import build_page_or_404
from web.shops.access import members_only, person_of
from web.shops.once import repeatable

MOST_SHOWN = 200
"""Most rows of a table in the preview; faulty rows are all shown, up to as many."""


class _Several(forms.ClearableFileInput):
    allow_multiple_selected = True


class _FilesField(forms.FileField):
    """One or several files; cleaned to a list."""

    widget = _Several

    def clean(self, data: Any, initial: Any = None) -> list[UploadedFile]:  # type: ignore[type-arg]
        """Clean each of them as a file."""
        sent = (data if isinstance(data, list | tuple) else [data]) or [None]
        if len(sent) > MOST_FILES:
            raise forms.ValidationError(f"At most {MOST_FILES} files at once; these are {len(sent)}.")
        return [super(_FilesField, self).clean(one, initial) for one in sent]


class ImportForm(forms.Form):
    """Job files."""

    file = _FilesField(label="Job files", max_length=200, help_text="one or several")


@dataclass(frozen=True, slots=True)
class Found:
    """An uploaded file: its job with its summary, or what is wrong with it."""

    name: str
    job: Job | None = None
    line: str = ""
    counts: str = ""
    verdict: str = ""
    faults: tuple[Fault, ...] = ()
    stands: bool = False


@members_only
def import_build(request: HttpRequest) -> HttpResponse:
    """Ask for job files; they are previewed before the import."""
    form = ImportForm(request.POST or None, request.FILES or None)
    found: list[Found] = []
    if request.method == "POST" and form.is_valid():
        files = [_as_sent(upload) for upload in form.cleaned_data["file"]]
        found = [_job_in(*file) for file in files]
        if any(one.job for one in found):
            return redirect("import-look", keep(files, person_of(request)))
    wrong = bool(found or form.errors)
    return render(request, "exchange/import.html", {"form": form, "found": found}, status=422 if wrong else 200)


def _as_sent(upload: "UploadedFile[bytes]") -> tuple[str, str, str]:
    """Return a file's name, its text, and why it has none."""
    try:
        return upload.name or "", text_of(upload), ""
    except FaultsError as error:
        return upload.name or "", "", " ".join(fault.message for fault in error.faults)


def _job_in(name: str, text: str, fault: str = "") -> Found:
    if fault:
        return Found(name, faults=(Fault("", fault),))
    try:
        job = read_job(text)
        report = evaluate(job)
    except FaultsError as error:
        return Found(name, faults=error.faults)
    counts = [f"{len(job.of(kind.core))} {kind.words}" for kind in READING_KINDS if job.of(kind.core)]
    return Found(
        name,
        job,
        line=engine_line(job.engine, job.unit),
        counts=", ".join(counts) or "nothing read yet",
        verdict=str(report.verdict),
        stands=Build.objects.annotate(whole=Concat("name", Value(" "), "subtitle")).filter(_called(job.name)).exists(),
    )


def _called(name: str) -> Q:
    return Q(name=name) | Q(whole=name)


@members_only
def import_look(request: HttpRequest, batch: UUID) -> HttpResponse:
    """Show what was understood of each file; import those without a fault."""
    by = person_of(request)
    found = [_job_in(one.name, one.text, one.fault) for one in kept(batch, by)]
    whole = [one.job for one in found if one.job]
    refused: tuple[Fault, ...] = ()
    if request.method == "POST" and whole:
        try:
            with transaction.atomic():
                builds = [build_from(job, by) for job in whole]
                forget(batch, by)
        except FaultsError as error:
            refused = error.faults
        else:
            if len(builds) == 1:
                return redirect(reverse("verdict", args=[builds[0].pk]))
            messages.info(request, f"{len(builds)} builds imported.")
            return redirect("builds")
    context = {"found": found, "whole": len(whole), "refused": refused}
    return render(request, "exchange/import_look.html", context, status=422 if refused else 200)


class ReadingsForm(forms.Form):
    """A table of readings, as a file or pasted."""

    file = forms.FileField(label="Workbook or CSV file", max_length=200, required=False)
    pasted = forms.CharField(
        label="or the table itself",
        required=False,
        max_length=200_000,
        widget=forms.Textarea(attrs={"rows": 6, "class": "form-control"}),
        help_text="with its headings, as cylinder, side, mockup, thickness (thou)",
    )

    def clean(self) -> dict[str, Any]:
        """Check that exactly one of the two is given."""
        found = super().clean() or {}
        if not self.errors and bool(found.get("file")) == bool((found.get("pasted") or "").strip()):
            self.add_error("file", "Choose a file or paste a table, one of the two.")
        return found


@members_only
def readings_page(request: HttpRequest, build_id: int) -> HttpResponse:
    """Ask for a table of readings of a build."""
    page = build_page_or_404(build_id)
    form = ReadingsForm(*((request.POST, request.FILES) if request.method == "POST" else ()))
    faults: tuple[Fault, ...] = ()
    if request.method == "POST" and form.is_valid():
        sent, pasted = form.cleaned_data["file"], form.cleaned_data["pasted"]
        try:
            tables = tables_of(sent) if sent else [from_csv(pasted)]
        except FaultsError as error:
            faults = error.faults
        else:
            batch = keep([(sent.name if sent else "pasted", as_text(tables), "")], person_of(request), page.build)
            return redirect("readings-look", build_id, batch)
    context = {"build": page.build, "form": form, "faults": faults, "kinds": list(READING_KINDS)}
    return render(request, "exchange/readings.html", context, status=422 if faults or form.errors else 200)


@members_only
def readings_look(request: HttpRequest, build_id: int, batch: UUID) -> HttpResponse:
    """Show what was understood of each row; import all of them, or none."""
    page, by = build_page_or_404(build_id), person_of(request)
    (upload,) = kept(batch, by, page.build)
    job = page.report.job
    found = readings_in(as_tables(upload.text), job)
    refused: tuple[Fault, ...] = ()
    if request.method == "POST" and found.is_whole:
        try:
            write_readings(page.build, found.readings, by)
        except FaultsError as error:
            refused = error.faults
        else:
            forget(batch, by, page.build)
            count = len(found.readings)
            messages.info(request, f"{count} reading{'s' * (count != 1)} imported from {upload.name}.")
            return redirect(reverse("verdict", args=[build_id]))
    elif request.method == "POST":
        repeatable(request)
    return render(
        request,
        "exchange/readings_look.html",
        {"build": page.build, "upload": upload, "found": found, "refused": refused, **_shown(found, job)},
        status=422 if refused else 200,
    )


def _shown(found: Understood, job: Job) -> dict[str, Any]:
    wrong = [row for row in found.rows if row.faults]
    right = [row for row in found.rows if row.reading]
    return {
        "wrong": wrong[:MOST_SHOWN],
        "wrong_count": len(wrong),
        "right": [(row, reading_words(row.reading, job)) for row in right[:MOST_SHOWN]],
        "right_count": len(right),
        "more_wrong": max(len(wrong) - MOST_SHOWN, 0),
        "more_right": max(len(right) - MOST_SHOWN, 0),
    }
