"""The list of builds: each with its tightest margin and its next step; and new builds."""

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from mockup.base.stations import Station
from web.builds import services
from web.builds.models import Build
from web.builds.models.summary import UNREADABLE
from web.builds.summaries import still_old, summarise_old
from web.builds_list.search import ORDERS, STATES, Pages, asked_of
from web.page.answers import station_url
from web.page.build_form import BuildForm, initial_of_engine, usual_layouts
from web.page.build_page import build_page_or_404
from web.quick.begin_build import begun_from, keep
from web.shelf.models import ShelfEngine
from web.shops.access import member_writes, members_only, person_of


@require_GET
def builds_list(request: HttpRequest) -> HttpResponse:
    """Show the shop's builds, last changed first; searched, sorted and paged."""
    asked = asked_of(request.GET)
    page = Pages(asked, person_of(request)).get_page(asked.page)
    # Outdated summaries on this page are recomputed; the rest by manage summarise.
    shown = list(page.object_list)
    if summarise_old(shown):
        fresh = Build.objects.select_related("summary", "summary__touched_by")
        found = fresh.in_bulk([build.pk for build in shown])
        shown = [found[build.pk] for build in shown]
    context = {
        "cards": [_card(build) for build in shown],
        "page": page,
        "asked": asked,
        "states": STATES,
        "orders": ORDERS,
        "still_old": still_old(),
        "any_build": bool(shown) or Build.objects.exists(),
    }
    return render(request, "builds_list/builds.html", context)


def _card(build: Build) -> dict[str, Any]:
    summary = build.summary
    if summary.state == UNREADABLE:
        return {"build": build, "unreadable": True, "touched": summary}
    card: dict[str, Any] = summary.card
    step = card["step"]
    return card | {
        "build": build,
        "touched": summary,
        "step_url": station_url(Station(step["station"]), build.pk, step["cylinder"]),
        "verdict_url": reverse("verdict", args=[build.pk]),
    }


@member_writes
def put_away(request: HttpRequest, build_id: int) -> HttpResponse:
    """Put a build away, or bring it back."""
    build = get_object_or_404(Build, pk=build_id)
    if request.method == "POST":
        away = "back" not in request.POST
        services.put_away(build, person_of(request), away=away)
        messages.info(request, f"{build} is {'put away' if away else 'back in the list'}.")
    return redirect("builds")


@members_only
def new_build(request: HttpRequest) -> HttpResponse:
    """Start a build, from nothing or from a quick check."""
    begun, unread = begun_from(request)
    usual: dict[str, Any] = {"unit": person_of(request).unit}
    if begun:
        check = begun.check
        usual = {"unit": check.unit, "limits": check.limits, "checking": [check.topic], **check.sizes}
    pattern = _pattern(request)
    if pattern:
        kept = {name: getattr(pattern, name) for name in ("unit", "deck_sign", "limits")}
        usual |= initial_of_engine(pattern.core()) | kept
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
    shown: dict[str, Any] = {"form": form, "begun": begun, "unread": unread, "layouts": usual_layouts()}
    shown |= {"pattern": pattern, "engines": ShelfEngine.objects.filter(off_since=None)}
    return render(request, "builds_list/new.html", shown, status=422 if form.errors else 200)


def _pattern(request: HttpRequest) -> ShelfEngine | None:
    """Return the shelf's engine that a build starts from; 404 for one that is not there."""
    number = request.GET.get("engine", "")
    if not number:
        return None
    if not number.isdecimal() or len(number) > 18:
        raise Http404(number)
    found: ShelfEngine = get_object_or_404(ShelfEngine, pk=int(number), off_since=None)
    return found


@require_GET
def build(request: HttpRequest, build_id: int) -> HttpResponse:  # noqa: ARG001, every view takes the request
    """Open a build at its next step."""
    step = build_page_or_404(build_id).report.steps[0]
    return redirect(station_url(step.station, build_id, step.cylinder))
