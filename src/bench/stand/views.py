"""The stand: every build of the shop with its tightest daylight and the next thing to do; new builds."""

from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from bench.builds import services
from bench.builds.assemble import assemble_all
from bench.builds.models import Build
from bench.builds.models.build import UnreadableError
from bench.drawings.engine_map import engine_map
from bench.page.bench import bench_or_404
from bench.page.build_form import BuildForm, usual_layouts
from bench.page.show import station_url
from bench.shops.access import members_only, person_of
from bench.stand.begun import begun_from, keep
from mockup.evaluate import evaluate
from mockup.report import Report
from mockup.words import daylight_text, engine_line, figure_text, limit_text


@require_GET
def stand(request: HttpRequest) -> HttpResponse:
    """The shop's builds."""
    builds = list(Build.objects.all())
    cards = [
        {"build": build, "unreadable": job} if isinstance(job, UnreadableError) else _card(build, evaluate(job))
        for build, job in zip(builds, assemble_all(builds), strict=True)
    ]
    return render(request, "stand/stand.html", {"cards": cards})


def _card(build: Build, report: Report) -> dict[str, Any]:
    unit, tightest, step = report.job.unit, report.tightest, report.steps[0]
    shown = tightest and {
        "label": tightest.label,
        "state": tightest.state,
        "daylight": daylight_text(tightest, unit),
        "figure": f"{figure_text(tightest, unit)}, wants {limit_text(tightest.limit, tightest.kind, unit)}",
    }
    return {
        "build": build,
        "engine_line": engine_line(report.job.engine, unit),
        "unit": unit,
        "tightest": shown,
        "step": step,
        "step_url": station_url(step.station, build.pk, step.cylinder),
        "verdict_url": reverse("verdict", args=[build.pk]),
        "map": engine_map(report, width=250.0, most_radius=17.0),
        "verdict": report.verdict,
    }


@members_only
def new_build(request: HttpRequest) -> HttpResponse:
    """Begin a build, from nothing or from a quick check."""
    begun, unread = begun_from(request)
    usual: dict[str, Any] = {"unit": person_of(request).unit}
    if begun:
        check = begun.check
        usual = {"unit": check.unit, "sheet": check.sheet, "checking": [check.topic], **check.sizes}
    form = BuildForm(request.POST or None, initial=usual)
    if request.method == "POST" and unread:
        form.add_error(None, unread)
    if request.method == "POST" and form.is_valid():
        by = person_of(request)
        with transaction.atomic():
            build = services.save_build(Build(), by, engine=form.record, **form.of_the_build)
            if begun:
                keep(begun, build, by)
        return redirect(station_url(begun.station, build.pk, 1) if begun else reverse("build", args=[build.pk]))
    shown = {"form": form, "begun": begun, "unread": unread, "layouts": usual_layouts()}
    return render(request, "stand/new.html", shown, status=422 if form.errors else 200)


@require_GET
def build(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001, every view takes the request
    """A build opens where its next thing is to be done."""
    step = bench_or_404(build_id).report.steps[0]
    return redirect(station_url(step.station, build_id, step.cylinder))
