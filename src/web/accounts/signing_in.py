"""Signing in: a password, a code with a second factor, remembering the device."""

import time
from typing import Any

from django import forms
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.views import LoginView, LogoutView
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render, resolve_url
from django.utils.decorators import method_decorator
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django_otp import match_token

from web.shops.access import BACKEND
from web.shops.devices import remember, wait_s
from web.shops.models import Person
from web.shops.second_factor import has_factor
from web.shops.session_age import share

HALF = "half signed in"
"""The session key of a person with a right password, until their code is right too."""
HALF_LASTS_S = 300


class SignInForm(AuthenticationForm):
    """Name, password, and whether the device is shared."""

    shared = forms.BooleanField(label="Shared device: sign me out after twelve idle hours", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["shared"].widget.attrs["class"] = "form-check-input"

    def clean(self) -> dict[str, Any]:
        """Check the password, unless this name has to wait."""
        username = self.cleaned_data.get("username")
        if username and self.request is not None and (wait := wait_s(self.request, username)):
            raise ValidationError(
                f"Too many wrong passwords for this name. Try again in {wait} s; on a device"
                " where you signed in before there is no wait.",
                code="slow",
            )
        return super().clean()


@method_decorator([sensitive_post_parameters(), never_cache], name="dispatch")
class SignInView(LoginView):
    """The sign-in page."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True
    authentication_form = SignInForm

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Sign in, or ask for the code first."""
        person = form.get_user()
        assert isinstance(person, Person)
        half_in(self.request, person, shared=form.cleaned_data["shared"], leads_to=self.get_success_url())
        return redirect("sign-in-code") if has_factor(person) else _let_in(self.request, person)


def half_in(request: HttpRequest, person: Person, *, shared: bool = False, leads_to: str = "builds") -> None:
    """Remember a person with a right password, and where they wanted to go."""
    leads_to = resolve_url(leads_to)
    request.session[HALF] = {"person": person.pk, "at": int(time.time()), "shared": shared, "leads_to": leads_to}


def _let_in(request: HttpRequest, person: Person) -> HttpResponse:
    half = request.session.pop(HALF)
    login(request, person, backend=BACKEND)
    answer = redirect(half["leads_to"])
    if half["shared"]:
        share(request.session)
    else:
        remember(request, answer, person)
    return answer


@login_not_required
@never_cache
@sensitive_post_parameters("code")
def sign_in_code(request: HttpRequest) -> HttpResponse:
    """Ask for the code of the second factor, after the password."""
    half = request.session.get(HALF) or {"person": None, "at": 0}
    person = Person.objects.filter(pk=half["person"], is_active=True).first()
    if person is None or time.time() - half["at"] > HALF_LASTS_S:
        return redirect("sign-in")
    wrong = ""
    if request.method == "POST":
        code = request.POST.get("code", "").replace(" ", "")[:40]
        if match_token(person, code) is not None:
            return _let_in(request, person)
        wrong = "That code is not right, or came too soon after a wrong one. Wait for the next one."
    return render(request, "accounts/sign_in_code.html", {"wrong": wrong}, status=422 if wrong else 200)


def come_in(request: HttpRequest, person: Person) -> HttpResponse:
    """Sign in a person with a one-time link; one with a second factor gives a code too."""
    half_in(request, person)
    return redirect("sign-in-code") if has_factor(person) else _let_in(request, person)


class SignOutView(LogoutView):
    """Signing out: the browser deletes what it kept."""

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Sign out."""
        answer = super().dispatch(request, *args, **kwargs)
        answer["Clear-Site-Data"] = '"cache"'
        return answer
