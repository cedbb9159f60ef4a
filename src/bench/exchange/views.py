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
from bench.page.bench import bench_or_404
from bench.shops.access import members_only, person_of
from mockup.faults import Fault, FaultsError
from mockup.jobfile.read import LONGEST_FILE, read_job
from mockup.jobfile.write import write_job


@require_GET
def export(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001, every view takes the request
    """The build as a job file."""
    build = bench_or_404(build_id).build
    name = re.sub(r"[^a-z0-9]+", "-", str(build).lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'attachment; filename="{name}.job.json"', "Cache-Control": "no-store"}
    return HttpResponse(write_job(assemble(build)), content_type="application/json; charset=utf-8", headers=headers)


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
