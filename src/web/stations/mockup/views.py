"""The mock-up station: the conditions of the next readings, entered before they are taken."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.checks.before_turning import before_turning
from mockup.checks.conditions import grounds_of
from mockup.words.report_text import mockup_line
from web.builds import services
from web.builds.entry_kinds import Turning
from web.builds.models import MockUp
from web.builds.versions import mockup_as_it_is
from web.drawings.stack import stack
from web.page.answers import show
from web.page.build_page import BuildPage, build_page_or_404
from web.page.read_fields import record_line
from web.shops.access import member_writes, person_of
from web.shops.clock import stamp
from web.stations.mockup.form import MockUpForm


@member_writes
def mockup(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the mock-ups; save a new one."""
    page = build_page_or_404(build_id)
    latest = page.mockups[-1] if page.mockups else None
    barrels = page.build.engine.separate_barrels
    copied = next((one for one in page.mockups if one.letter == request.GET.get("from")), latest)
    turning = "turning" in request.POST
    initial = MockUpForm.shown(copied.core) if copied else {}
    form = MockUpForm(page.unit, barrels, None if turning else request.POST or None, initial=initial)
    if turning:
        _checked(request, page)
        return redirect(reverse("mock-up", args=[build_id]))
    if request.method == "POST" and form.is_valid():
        try:
            was = request.POST.get("as_it_was", "")
            saved = services.save_mockup(page.build, person_of(request), form.record, was)
        except FaultsError as error:
            form.show_faults(error)
        else:
            messages.info(request, f"Mock-up {saved.letter} saved.")
            return redirect(reverse("mock-up", args=[build_id]))
    return show(request, page, Station.MOCKUP, _parts(page, latest, form))


def _checked(request: HttpRequest, page: BuildPage) -> None:
    """Record the list completed before turning the latest mock-up over."""
    if page.mockups:
        ticked = tuple(
            item.key for item in before_turning(page.report.job.mockups[-1]) if f"turn-{item.key}" in request.POST
        )
        item = Turning(mockup=page.mockups[-1].letter, checked=ticked)
        services.write(page.build, item, person_of(request))


def _turned(page: BuildPage) -> dict[str, Any]:
    """Return the list before turning, as last ticked for the latest mock-up."""
    latest = page.report.job.mockups[-1] if page.report.job.mockups else None
    if latest is None:
        return {}
    mine = [row for row in page.log if row.kind == "turning" and row.data["mockup"] == latest.key]
    ticked = set(mine[-1].data["checked"]) if mine else set()
    by = record_line(mine[-1].by.shown_name, stamp(mine[-1].at), "") if mine else ""
    return {"list": [(item, item.key in ticked) for item in before_turning(latest)], "by": by, "letter": latest.key}


def _parts(page: BuildPage, latest: MockUp | None, form: MockUpForm) -> dict[str, Any]:
    job = page.report.job
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
                "line": mockup_line(one, page.unit),
                "trust": grounds_of(one, job.engine.rocker_ratio, hidden_counted=True),
                "read": under.count(one.key),
            }
            for one in reversed(job.mockups)
        ],
        "stack": stack(page.report),
        "turned": _turned(page),
    }
