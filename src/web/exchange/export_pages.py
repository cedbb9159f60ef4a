"""Exports of a build: as a job file, as tables, as a workbook, as text."""

import re

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET

from mockup.formats.job_write import write_job
from mockup.formats.readings_out import one_table
from mockup.formats.report_csv import report_csv
from mockup.formats.table import to_csv
from mockup.formats.workbook import to_workbook
from mockup.words.report_text import report_text
from web.builds.assemble import assemble
from web.page.build_page import BuildPage, build_page_or_404


def _file(page: BuildPage, content: str | bytes, ending: str, kind: str) -> HttpResponse:
    name = re.sub(r"[^a-z0-9]+", "-", str(page.build).lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'attachment; filename="{name}.{ending}"', "Cache-Control": "no-store"}
    charset = "; charset=utf-8" if isinstance(content, str) else ""
    return HttpResponse(content, content_type=f"{kind}{charset}", headers=headers)


@require_GET
def export(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001, every view takes the request
    """The build as a job file."""
    found = build_page_or_404(build_id)
    return _file(found, write_job(assemble(found.build)), "job.json", "application/json")


@require_GET
def checks_csv(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """Return the verdict as a table: a line for each check, lengths in mm."""
    found = build_page_or_404(build_id)
    return _file(found, report_csv({str(found.build): found.report}), "checks.csv", "text/csv")


@require_GET
def readings_csv(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """Return all readings, struck out or not, in one table that can be imported as it is."""
    found = build_page_or_404(build_id)
    return _file(found, to_csv(one_table(found.report.job)), "readings.csv", "text/csv")


@require_GET
def workbook(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """Return readings, inputs, corrections and verdict as a workbook with live formulas."""
    found = build_page_or_404(build_id)
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _file(found, to_workbook(found.report), "xlsx", kind)


@require_GET
def report_txt(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """The report as plain text, to paste into a message."""
    found = build_page_or_404(build_id)
    return _file(found, report_text(found.report), "txt", "text/plain")
