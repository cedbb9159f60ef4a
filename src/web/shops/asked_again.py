"""Granting access needs the password again, unless it was given within the last ten minutes."""

import time
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.debug import sensitive_post_parameters

from web.shops.access import View, person_of
from web.shops.once import repeatable
from web.shops.session_age import PROVED
from web.shops.signed_out import fields_but

GOOD_FOR_S = 600
FIELD = "password-again"


def password_again(*buttons: str) -> Callable[[View], View]:
    """Ask for the password before accepting a form of these buttons; the form is kept."""

    def decorated(view: View) -> View:
        @wraps(view)
        @sensitive_post_parameters(FIELD)
        def guarded(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
            if request.method == "POST" and any(name in request.POST for name in buttons) and not _proved(request):
                return _ask(request)
            return view(request, *args, **kwargs)

        return guarded

    return decorated


def _proved(request: HttpRequest) -> bool:
    if settings.DEMO_MODE or time.time() - request.session.get(PROVED, 0) < GOOD_FOR_S:
        return True
    person = person_of(request)
    password = request.POST.get(FIELD, "")
    # Through authenticate, so that a guess here counts like one on the sign-in page.
    if password and authenticate(request, username=person.username, password=password) == person:
        request.session[PROVED] = int(time.time())
        return True
    return False


def _ask(request: HttpRequest) -> HttpResponse:
    kept = fields_but(request, ("csrfmiddlewaretoken", FIELD))
    wrong = "That is not your password." if FIELD in request.POST else ""
    repeatable(request)
    shown = {"kept": kept, "address": request.get_full_path(), "wrong": wrong}
    return render(request, "accounts/password_again.html", shown, status=422 if wrong else 200)
