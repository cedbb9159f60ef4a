"""Explore: room to move, the map of two changes, and what each change gains."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from mockup.plans.batch import Batch
from web.page.build_page import build_page_or_404
from web.page.tool_pages import show_tool
from web.stations.put_right.gains import parts_of_the_gains
from web.stations.put_right.map import parts_of_the_map
from web.stations.put_right.room import parts_of_the_room


@require_GET
def explore(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show all three; a chosen point of the map leads to its what-if.

    With ``part=map`` the answer is the map alone, so that other axes do not recompute the rest.
    """
    page = build_page_or_404(build_id)
    many = Batch(page.report)
    parts, picked = parts_of_the_map(request, page, many)
    if picked:
        return redirect(picked)
    parts |= {"count": len(many.checks), "judged": bool(many.checks)}
    if request.GET.get("part") == "map":
        return render(request, "put_right/explore/_map.html", {"build": page.build, "unit": page.unit, **parts})
    parts |= parts_of_the_room(page, many) | parts_of_the_gains(request, page, many)
    return show_tool(request, page, "explore", parts, parts["tolerances"].errors, whole=True)
