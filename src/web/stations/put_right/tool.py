"""The base of the tools that put it right: a folder of templates each, and the tabs."""

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse

from mockup.base.stations import Station
from web.page.answers import show
from web.page.build_page import BuildPage

TABS = (
    ("put-right", "What if"),
    ("which-cam", "Which cam"),
    ("remedies", "The least work"),
    ("sensitivity", "What each change gains"),
    ("room", "Room to move"),
    ("map", "The map"),
    ("to-order", "To order"),
)
"""The tools, by address and name."""


def show_tool(
    request: HttpRequest,
    page: BuildPage,
    tool: str,
    parts: Mapping[str, Any],
    wrong: Mapping[str, Any] | None = None,
    *,
    wide: bool = False,
) -> HttpResponse:
    """Return a tool's page.

    ``tool``: its folder, empty for the what-if. ``wide``: its drawing takes the wider column.
    """
    folder = f"put_right/{tool}" if tool else "put_right"
    unread = sum(check.required and check.figure is None for check in page.report.checks)
    frame = {"folder": folder, "tabs": TABS, "wide_drawing": wide, "unread": unread, "wrong": wrong or {}}
    return show(request, page, Station.RIGHT, frame | dict(parts))
