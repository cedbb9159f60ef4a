"""A build out: as a job file, as tables, as a workbook, as text."""

import re

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET

from bench.builds.assemble import assemble
from bench.page.bench import Bench, bench_or_404
from mockup.jobfile.report_csv import report_csv
from mockup.jobfile.write import write_job
from mockup.tables.readings_out import one_table
from mockup.tables.table import to_csv
from mockup.tables.workbook import to_workbook
from mockup.words import report_text


def _file(bench: Bench, content: str | bytes, ending: str, kind: str) -> HttpResponse:
    name = re.sub(r"[^a-z0-9]+", "-", str(bench.build).lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'attachment; filename="{name}.{ending}"', "Cache-Control": "no-store"}
    charset = "; charset=utf-8" if isinstance(content, str) else ""
    return HttpResponse(content, content_type=f"{kind}{charset}", headers=headers)


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


@require_GET
def readings_csv(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """Everything that was read, struck out or not, in one table that comes in again as it goes out."""
    found = bench_or_404(build_id)
    return _file(found, to_csv(one_table(found.report.job)), "readings.csv", "text/csv")


@require_GET
def workbook(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """Readings, inputs, corrections and verdict as a workbook whose cells work them out."""
    found = bench_or_404(build_id)
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _file(found, to_workbook(found.report), "xlsx", kind)


@require_GET
def report_txt(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001
    """The report as plain text, to paste into a message."""
    found = bench_or_404(build_id)
    return _file(found, report_text(found.report), "txt", "text/plain")
