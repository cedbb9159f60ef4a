"""Signed out in the middle of something: what was typed is kept, and sent once somebody is signed in again.

A field of a sheet gets 401 and waits in its page (entry.js). A whole form comes back as a page that holds all of it,
with a link to sign in in another tab and a button to send it again. So does one whose token is of before that.
"""

from collections.abc import Callable, Container
from typing import Any
from urllib.parse import urlsplit

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.shortcuts import render
from django.views.csrf import csrf_failure

NEVER_SHOWN = ("csrfmiddlewaretoken", "password", "again", "old", "password-again", "code")
"""Fields of forms that are no part of the page that keeps what was typed: tokens, passwords, codes."""


def _waits() -> HttpResponse:
    """What a field gets: its page stays as it is."""
    return HttpResponse("Signed out.", status=401, headers={"HX-Reswap": "none"})


def fields_but(request: HttpRequest, left_out: Container[str]) -> list[tuple[str, str]]:
    """The fields of a form that was sent, name and text, to be sent again by a page; some are left out."""
    return [(name, text) for name, texts in request.POST.lists() for text in texts if name not in left_out]


def _again(request: HttpRequest, status: int) -> HttpResponse:
    context = {
        "kept": fields_but(request, NEVER_SHOWN),
        "address": request.get_full_path(),
        "files": bool(request.FILES),
    }
    return render(request, "shops/again.html", context, status=status)


class SignedOutMiddleware(LoginRequiredMiddleware):
    """Every page wants somebody signed in; what was typed meanwhile is not lost."""

    def handle_no_permission(self, request: HttpRequest, view_func: Callable[..., Any]) -> Any:
        """Nobody is signed in any more."""
        if request.headers.get("HX-Request"):
            return _waits()
        if request.method == "POST" and _from_here(request):
            return _again(request, 401)
        return super().handle_no_permission(request, view_func)


def token_is_old(request: HttpRequest, reason: str = "") -> HttpResponse:
    """The form's token is of before somebody signed in again, or of another site."""
    if not _from_here(request):
        return csrf_failure(request, reason=reason)
    if request.headers.get("HX-Request"):
        return _waits()
    if request.method == "POST":
        return _again(request, 403)
    return HttpResponseForbidden(reason)


def _from_here(request: HttpRequest) -> bool:
    """Whether the browser says that one of our own pages sent it. A stranger's form is never handed on."""
    sent_by = request.headers.get("Origin") or request.headers.get("Referer") or ""
    try:
        return bool(sent_by) and urlsplit(sent_by).netloc == request.get_host()
    except ValueError:
        return False  # no address
