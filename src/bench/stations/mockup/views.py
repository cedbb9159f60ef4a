"""The mock-up station: the conditions of the next readings set down before they are taken."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from bench.builds import services
from bench.builds.models import MockUp
from bench.drawings.stack import stack
from bench.page.bench import Bench, bench_or_404, show
from bench.shops.access import member_writes, person_of
from bench.stations.mockup.form import MockUpForm, initial_of
from mockup.checks.conditions import standing_of
from mockup.report import Station
from mockup.words import mockup_line


@member_writes
def mockup(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the mock-ups; set down a new one."""
    bench = bench_or_404(build_id)
    latest = bench.mockups[-1] if bench.mockups else None
    barrels = bench.build.separate_barrels
    form = MockUpForm(bench.unit, barrels, request.POST or None, initial=initial_of(latest))
    if request.method == "POST" and form.is_valid():
        saved = services.save_mockup(bench.build, person_of(request), **form.cleaned_data)
        messages.info(request, f"Mock-up {saved.letter} is written down.")
        return redirect(reverse("mock-up", args=[build_id]))
    return show(request, bench, Station.MOCKUP, _parts(bench, latest, form))


def _parts(bench: Bench, latest: MockUp | None, form: MockUpForm) -> dict[str, Any]:
    job = bench.report.job
    read_under = {reading.mockup for reading in job.clay}
    keeps = latest is not None and latest.letter not in read_under
    return {
        "folder": "mockup",
        "form": form,
        "wrong": form.errors,
        "letter": latest.letter if latest and keeps else services.next_letter(latest),
        "latest": latest,
        "changes_in_place": keeps,
        "mockups": [
            {
                "key": one.key,
                "line": mockup_line(one, bench.unit),
                "trust": standing_of(one),
                "read": sum(reading.mockup == one.key for reading in job.clay),
            }
            for one in reversed(job.mockups)
        ],
        "stack": stack(bench.report),
    }
