"""The base of the pages that put it right, or say what to buy: a folder of templates each."""

from collections.abc import Callable, Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404
from django.urls import reverse

from mockup.base.stations import Station
from web.builds.models import Build
from web.page.answers import show
from web.page.build_page import BuildPage

TABS = {
    Station.RIGHT: (
        ("put-right", "Put it right"),
        ("explore", "Explore: room, map and gains"),
        ("to-order", "Before you buy: gasket, pistons, cams"),
    ),
    Station.BUY: (("to-order", "Gasket and pistons"), ("which-cam", "Which cam")),
}
"""The pages of a station, by address and name."""


def show_tool(
    request: HttpRequest,
    page: BuildPage,
    tool: str,
    parts: Mapping[str, Any],
    wrong: Mapping[str, Any] | None = None,
    *,
    station: Station = Station.RIGHT,
    wide: bool = False,
    whole: bool = False,
) -> HttpResponse:
    """Return a tool's page.

    ``tool``: its folder, empty for the station's own. ``wide``: its drawing takes the wider column; ``whole``: the page
    takes the full width, its drawing below.
    """
    home = "buy" if station is Station.BUY else "put_right"
    folder = f"{home}/{tool}" if tool else home
    unread = sum(check.required and check.figure is None for check in page.report.checks)
    frame = {"folder": folder, "tabs": TABS[station], "wide_drawing": wide, "whole": whole, "unread": unread}
    return show(request, page, station, frame | {"wrong": wrong or {}} | dict(parts))


def moved(name: str, anchor: str = "") -> Callable[..., HttpResponse]:
    """Return a view that leads an old address to the page ``name``, with its query.

    307 keeps method and body, so that a page left open during an update loses nothing.
    """

    def redirected(request: HttpRequest, build_id: int) -> HttpResponse:
        get_object_or_404(Build, pk=build_id)
        query = f"?{request.META['QUERY_STRING']}" if request.META.get("QUERY_STRING") else ""
        address = f"{reverse(name, args=[build_id])}{query}{f'#{anchor}' if anchor else ''}"
        return HttpResponseRedirect(address, preserve_request=True)

    return redirected
