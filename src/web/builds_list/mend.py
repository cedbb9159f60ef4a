"""A build that cannot be read: the entries to blame, each to be struck out.

It happens where an entry belongs to a cylinder or a valve that the engine no longer has. Every other page of the build
leads here until it can be read again; the rest of the shop is not affected.
"""

from http import HTTPStatus
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django_htmx.http import HttpResponseClientRedirect

from web.builds.assemble import in_the_way
from web.builds.entry_kinds import every_kind
from web.builds.models.build import UnreadableError
from web.entry.without_script import take
from web.page.build_page import BuildPage, build_page_or_404
from web.shops.access import member_writes
from web.shops.scope import GetResponse


@member_writes
def mend(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the entries that are the cause; striking the last of them opens the build again."""
    page = build_page_or_404(build_id)
    wrong: dict[str, Any] = {}
    if request.method == "POST":
        wrong = take(request, page, {}, *every_kind())
    try:
        lines, reason = in_the_way(page.build, page.log), ""
    except UnreadableError as error:
        # Without its engine the entries cannot be told apart: a backup, or its job file, has it.
        lines, reason = [], f"{error} Import its job file, or restore a backup."
    reason = reason or ("" if lines else _reason(page))
    if not lines and not reason:
        return redirect(reverse("build", args=[build_id]))
    refused = {key: found.message for key, found in wrong.items()}
    context = {
        "build": page.build,
        "lines": [(line, refused.get(f"strike-{line.entry.key}", "")) for line in lines],
        "reason": reason,
    }
    return render(request, "builds_list/mend.html", context, status=HTTPStatus.UNPROCESSABLE_ENTITY if wrong else 200)


def _reason(page: BuildPage) -> str:
    try:
        _ = page.report
    except UnreadableError as error:
        return str(error)
    return ""


class UnreadableMiddleware:
    """Lead from any page of an unreadable build to the one that says why."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Turn a failure to read a build into a redirect to its mending."""
        if not isinstance(error, UnreadableError):
            return None
        address = reverse("mend", args=[error.build_id])
        return HttpResponseClientRedirect(address) if request.headers.get("HX-Request") else redirect(address)
