"""A build that cannot be read: which lines are in the way, each to be struck out with a reason.

It happens where a line was written for a cylinder or a valve that the engine no longer has. Every other page of the
build leads here until it can be read again; the rest of the shop goes on as usual.
"""

from http import HTTPStatus
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django_htmx.http import HttpResponseClientRedirect

from bench.builds.assemble import in_the_way
from bench.builds.kinds import every_kind
from bench.builds.models.build import UnreadableError
from bench.entry.taking import take
from bench.page.bench import Bench, bench_or_404
from bench.shops.access import member_writes
from bench.shops.scope import GetResponse


@member_writes
def mend(request: HttpRequest, build_id: int) -> HttpResponse:
    """The lines in the way; striking the last of them opens the build again."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Any] = {}
    if request.method == "POST":
        wrong = take(request, bench, {}, *every_kind())
    try:
        lines, reason = in_the_way(bench.build, bench.book), ""
    except UnreadableError as error:
        # Without its engine no line can be told from another: a backup, or its job file, has it.
        lines, reason = [], f"{error} Read in its job file, or restore a backup."
    reason = reason or ("" if lines else _reason(bench))
    if not lines and not reason:
        return redirect(reverse("build", args=[build_id]))
    refused = {key: found.message for key, found in wrong.items()}
    context = {
        "build": bench.build,
        "lines": [(line, refused.get(f"strike-{line.entry.key}", "")) for line in lines],
        "reason": reason,
    }
    return render(request, "stand/mend.html", context, status=HTTPStatus.UNPROCESSABLE_ENTITY if wrong else 200)


def _reason(bench: Bench) -> str:
    try:
        _ = bench.report
    except UnreadableError as error:
        return str(error)
    return ""


class UnreadableMiddleware:
    """Leads from any page of a build that cannot be read to the one that says why."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """Turn the failure of reading a build into the way to its mending."""
        if not isinstance(error, UnreadableError):
            return None
        address = reverse("mend", args=[error.build_id])
        return HttpResponseClientRedirect(address) if request.headers.get("HX-Request") else redirect(address)
