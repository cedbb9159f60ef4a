"""Signed out in the middle: typed text is kept, and sent after signing in again.

A field of an entry form gets 401 and waits in its page (entry.js). A whole form comes back as a page that holds all of
it, with a link to sign in in another tab and a button to send it again. So does a form with an outdated token.
"""

from collections.abc import Callable, Container
from typing import Any
from urllib.parse import urlsplit

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.shortcuts import render
from django.views.csrf import csrf_failure

NEVER_SHOWN = ("csrfmiddlewaretoken", "password", "again", "old", "password-again", "code")
"""Form fields that are not put on the page that keeps typed text: tokens, passwords, codes."""


def _waits() -> HttpResponse:
    """Answer a field; its page does not change."""
    return HttpResponse("Signed out.", status=401, headers={"HX-Reswap": "none"})


def fields_but(request: HttpRequest, left_out: Container[str]) -> list[tuple[str, str]]:
    """Return the fields of a sent form, name and text, for sending it again; some are left out."""
    return [(name, text) for name, texts in request.POST.lists() for text in texts if name not in left_out]


def _again(request: HttpRequest, status: int) -> HttpResponse:
    context = {
        "kept": fields_but(request, NEVER_SHOWN),
        "address": request.get_full_path(),
        "files": bool(request.FILES),
    }
    return render(request, "accounts/again.html", context, status=status)


class SignedOutMiddleware(LoginRequiredMiddleware):
    """Require signing in for every page, and keep what was typed meanwhile."""

    def handle_no_permission(self, request: HttpRequest, view_func: Callable[..., Any]) -> Any:
        """Answer a request without a session."""
        if request.headers.get("HX-Request"):
            return _waits()
        if request.method == "POST" and _from_here(request):
            return _again(request, 401)
        return super().handle_no_permission(request, view_func)


def token_is_old(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Answer a form whose token is from before signing in again, or from another site."""
    if not _from_here(request):
        return csrf_failure(request, reason=reason)
    if request.headers.get("HX-Request"):
        return _waits()
    if request.method == "POST":
        return _again(request, 403)
    return HttpResponseForbidden(reason)


def _from_here(request: HttpRequest) -> bool:
    """Return whether one of our own pages sent it. A foreign form is never passed on."""
    sent_by = request.headers.get("Origin") or request.headers.get("Referer") or ""
    try:
        return bool(sent_by) and urlsplit(sent_by).netloc == request.get_host()
    except ValueError:
        return False  # no address
