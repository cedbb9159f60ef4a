"""The mock-up station: the conditions of the next readings set down before they are taken."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from bench.builds import services
from bench.builds.kinds import Turning
from bench.builds.marks import mockup_as_it_is
from bench.builds.models import MockUp
from bench.drawings.stack import stack
from bench.page.bench import Bench, bench_or_404
from bench.page.entering import record_line
from bench.page.show import show
from bench.shops.access import member_writes, person_of
from bench.shops.clock import stamp
from bench.stations.mockup.form import MockUpForm
from mockup.checks.before_turning import before_turning
from mockup.checks.conditions import grounds_of
from mockup.faults import FaultsError
from mockup.stations import Station
from mockup.words import mockup_line


@member_writes
def mockup(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the mock-ups; set down a new one."""
    bench = bench_or_404(build_id)
    latest = bench.mockups[-1] if bench.mockups else None
    barrels = bench.build.engine.separate_barrels
    copied = next((one for one in bench.mockups if one.letter == request.GET.get("from")), latest)
    turning = "turning" in request.POST
    initial = MockUpForm.shown(copied.core) if copied else {}
    form = MockUpForm(bench.unit, barrels, None if turning else request.POST or None, initial=initial)
    if turning:
        _checked(request, bench)
        return redirect(reverse("mock-up", args=[build_id]))
    if request.method == "POST" and form.is_valid():
        try:
            was = request.POST.get("as_it_was", "")
            saved = services.save_mockup(bench.build, person_of(request), form.record, was)
        except FaultsError as error:
            form.show_faults(error)
        else:
            messages.info(request, f"Mock-up {saved.letter} is saved.")
            return redirect(reverse("mock-up", args=[build_id]))
    return show(request, bench, Station.MOCKUP, _parts(bench, latest, form))


def _checked(request: HttpRequest, bench: Bench) -> None:
    """Write down what was gone through before turning the latest mock-up over."""
    if bench.mockups:
        ticked = tuple(
            item.key for item in before_turning(bench.report.job.mockups[-1]) if f"turn-{item.key}" in request.POST
        )
        item = Turning(mockup=bench.mockups[-1].letter, checked=ticked)
        services.write(bench.build, item, person_of(request))


def _turned(bench: Bench) -> dict[str, Any]:
    """The list before turning, with what was ticked last for the latest mock-up and by whom."""
    latest = bench.report.job.mockups[-1] if bench.report.job.mockups else None
    if latest is None:
        return {}
    mine = [row for row in bench.book if row.kind == "turning" and row.data["mockup"] == latest.key]
    ticked = set(mine[-1].data["checked"]) if mine else set()
    by = record_line(mine[-1].by.shown_name, stamp(mine[-1].at), "") if mine else ""
    return {"list": [(item, item.key in ticked) for item in before_turning(latest)], "by": by, "letter": latest.key}


def _parts(bench: Bench, latest: MockUp | None, form: MockUpForm) -> dict[str, Any]:
    job = bench.report.job
    under = [getattr(reading, "mockup", None) for reading in job.readings]
    read_under = set(under)
    keeps = latest is not None and latest.letter not in read_under
    return {
        "folder": "mockup",
        "form": form,
        "wrong": form.errors,
        "letter": latest.letter if latest and keeps else services.next_letter(latest),
        "latest": latest,
        "as_it_is": mockup_as_it_is(latest),
        "changes_in_place": keeps,
        "mockups": [
            {
                "key": one.key,
                "line": mockup_line(one, bench.unit),
                "trust": grounds_of(one, job.engine.rocker_ratio),
                "read": under.count(one.key),
            }
            for one in reversed(job.mockups)
        ],
        "stack": stack(bench.report),
        "turned": _turned(bench),
    }
