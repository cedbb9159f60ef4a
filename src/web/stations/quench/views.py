"""The quench station: cold figures against the window, the running estimate beside."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from mockup.base.stations import Station
from mockup.checks.check import Check
from mockup.checks.quench import QUENCH_CHECK, QUENCH_EDGE_CHECK
from mockup.checks.valves import FACE_KINDS
from mockup.quantity.corrections import Correction
from mockup.report import Report
from web.builds import services
from web.drawings.budget_bars import budget_bars
from web.page.answers import show
from web.page.build_page import BuildPage, build_page_or_404
from web.shops.access import member_writes, person_of
from web.stations.quench.form import HotGrowthForm, RunningForm


@member_writes
def quench(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the quench of every cylinder; store the inputs of the running estimate."""
    page = build_page_or_404(build_id)
    running = page.report.job.running
    shown = {name: getattr(running, name) for name in RunningForm.base_fields} if running else {}
    is_hot = "hot_mm" in request.POST
    form = RunningForm(page.unit, None if is_hot else request.POST or None, initial=shown)
    hot = page.report.job.hot_growth
    hot_form = HotGrowthForm(
        page.unit, request.POST if is_hot else None, initial={"hot_mm": hot.hot_mm} if hot else {}, auto_id="hot-%s"
    )
    sent: HotGrowthForm | RunningForm = hot_form if is_hot else form
    if request.method == "POST" and sent.is_valid():
        services.write(page.build, sent.item, person_of(request), typed=request.POST.get("hot_mm", "")[:100])
        return redirect(reverse("quench", args=[build_id]))
    wrong = {**form.errors, **hot_form.errors}
    return show(
        request, page, Station.QUENCH, {**_parts(page), "form": form, "hot_form": hot_form, "hot": hot, "wrong": wrong}
    )


def _parts(page: BuildPage) -> dict[str, Any]:
    report = page.report
    checks = report.of_kind(QUENCH_CHECK)
    corrections = _corrections(report)
    return {
        "folder": "quench",
        "rows": [_row(report, check) for check in checks],
        "cautions": sorted({words for check in checks if check.governing for words in check.governing.cautions}),
        "corrections": corrections,
        "budget": budget_bars(corrections, page.unit),
        "faces": _faces(report),
    }


def _row(report: Report, check: Check) -> dict[str, Any]:
    edges = {edge.cylinder: edge for edge in report.of_kind(QUENCH_EDGE_CHECK)}
    return {
        "check": check,
        "edge": edges.get(check.cylinder),
        "running_mm": report.running_mm(check),
        "hot_mm": report.hot_mm(check),
    }


def _corrections(report: Report) -> tuple[Correction, ...]:
    """Return the budget of the cylinder with least quench, which would touch first."""
    known = [c for c in report.of_kind(QUENCH_CHECK) if c.figure and c.cylinder in report.budgets]
    if not known:
        return ()
    least = min(known, key=lambda check: check.figure.value if check.figure else 0.0)
    return report.budgets[least.cylinder].corrections


def _faces(report: Report) -> list[dict[str, Any]]:
    """Return what the same budget would use of each side's tightest valve, along its axis."""
    found = []
    for side, kind in FACE_KINDS.items():
        checks = [
            c for c in report.of_kind(kind) if c.figure and c.limit.low is not None and c.cylinder in report.budgets
        ]
        if checks:
            tightest = min(checks, key=lambda check: check.margin or 0.0)
            used = -report.budgets[tightest.cylinder].total_mm * report.engine.row(side).axial_factor
            found.append({"label": tightest.label, "used_mm": used, "added_mm": -used, "least_mm": tightest.limit.low})
    return found
