"""The people of a shop: the owner's page, one's own page, one-time links."""

from typing import Any

from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django_otp.plugins.otp_totp.models import TOTPDevice

from mockup.base.faults import FaultsError
from web.accounts import services
from web.accounts.signing_in import come_in
from web.shops import passes
from web.shops.access import person_of
from web.shops.asked_again import password_again
from web.shops.forms import JoinForm, NewPasswordForm, OwnForm, ShopForm
from web.shops.models import Pass, Person, ProgramKey, Shop, ShopLine
from web.shops.program_keys import alive, end_key, make_key
from web.shops.second_factor import has_factor, take_off

MOST_LINES = 60
MADE_KEY = "made key"
"""The session key of a newly made key, until it is shown."""
OF_A_PERSON = ("role-of", "end", "give-back", "password", "factor-off")
"""The owner's buttons that change what one person may do."""
ROLES = {
    Person.Role.OWNER: "owner: reads, writes, and manages people",
    Person.Role.MEMBER: "builder: reads and writes",
    Person.Role.VIEWER: "viewer: reads",
}
WELCOME = {
    Pass.Kind.FIRST: ("Your shop", "Make the shop"),
    Pass.Kind.JOIN: ("Join", "Join the shop"),
    Pass.Kind.PASSWORD: ("A new password", "Set it"),
}


@login_not_required
@never_cache
@sensitive_post_parameters()
def welcome(request: HttpRequest, token: str) -> HttpResponse:
    """Use a one-time link: make the shop, join it, or set a new password."""
    one = passes.found(token)
    if one is None:
        return render(request, "accounts/no_pass.html", status=410)
    form = JoinForm(one.kind, request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            person = passes.use(one, **form.cleaned_data)
        except Pass.DoesNotExist:
            return render(request, "accounts/no_pass.html", status=410)
        return come_in(request, person)
    heading, button = WELCOME[Pass.Kind(one.kind)]
    shown = {"form": form, "heading": heading, "button": button, "shop": one.shop, "person": one.person}
    return render(request, "accounts/welcome.html", shown, status=422 if form.errors else 200)


def owner_of(request: HttpRequest) -> tuple[Person, Shop]:
    """Return the owner who asks, and the shop; 403 for anybody else."""
    person = person_of(request)
    if person.shop is None or not person.is_owner:
        raise PermissionDenied("Only the owner can invite people and change their access.")
    return person, person.shop


@never_cache
@password_again("invite", *OF_A_PERSON)
def people(request: HttpRequest) -> HttpResponse:
    """Show everybody in the shop; the owner invites, changes roles, removes and restores access."""
    owner, shop = owner_of(request)
    link = ""
    if request.method == "POST":
        link = _changed(request, owner, shop)
        if not link:
            return redirect("people")
    shown = {
        "people": shop.people.order_by("-is_active", "first_name", "username"),
        "with_factor": set(TOTPDevice.objects.filter(user__shop=shop, confirmed=True).values_list("user", flat=True)),
        "roles": ROLES,
        "link": link,
        "shop_form": ShopForm(instance=shop),
        "lines": ShopLine.objects.filter(shop=shop).select_related("by")[:MOST_LINES],
        "waiting": Pass.objects.filter(shop=shop, kind=Pass.Kind.JOIN, used=None, ends__gt=timezone.now()),
    }
    return render(request, "accounts/people.html", shown)


def _changed(request: HttpRequest, owner: Person, shop: Shop) -> str:
    """Do what the owner asked for; returns a link if one was made."""
    if "invite" in request.POST:
        role = _role(request.POST.get("role", ""))
        token = passes.issue(Pass.Kind.JOIN, shop=shop, role=role, by=owner)
        passes.note(shop, owner, f"made a link to join as {role}")
        return _address(request, token)
    if "shop" in request.POST:
        form = ShopForm(request.POST, instance=shop)
        if form.is_valid():
            form.save()
            passes.note(shop, owner, "changed the shop’s clock or paper")
        else:
            messages.error(request, "Not saved: choose a time zone and a paper size.")
        return ""
    if "take-back" in request.POST:
        services.take_back(shop, _number(request, "take-back"), owner)
        return ""
    return _changed_person(request, owner, shop)


def _changed_person(request: HttpRequest, owner: Person, shop: Shop) -> str:
    asked = next((name for name in OF_A_PERSON if name in request.POST), "")
    person = shop.people.filter(pk=_number(request, asked)).first() if asked else None
    if person is None:
        raise Http404
    if asked == "password":
        passes.note(shop, owner, f"made a link to a new password for {person.shown_name}")
        return _address(request, passes.issue(Pass.Kind.PASSWORD, shop=shop, person=person, by=owner))
    if asked == "factor-off":
        take_off(person, owner)
        return ""
    if person == owner and asked in ("role-of", "end"):
        messages.error(request, "A shop needs an owner. Another owner must do this.")
        return ""
    if asked == "role-of":
        services.give_role(person, _role(request.POST.get("role", "")), shop, owner)
    elif asked == "give-back":
        services.give_access(person, shop, owner)
    else:
        services.end_access(person, shop, owner)
    return ""


def _role(typed: str) -> str:
    if typed not in Person.Role:
        raise Http404
    return typed


def _number(request: HttpRequest, name: str) -> int:
    typed = request.POST.get(name, "")
    if not typed.isdecimal() or len(typed) > 18:
        raise Http404
    return int(typed)


def _address(request: HttpRequest, token: str) -> str:
    return request.build_absolute_uri(reverse("welcome", args=[token]))


@never_cache
@sensitive_post_parameters()
@password_again("make-key")
def me(request: HttpRequest) -> HttpResponse:
    """Show a person's own name, units, theme and password, and where they are signed in."""
    person = person_of(request)
    own = OwnForm(request.POST if "own" in request.POST else None, instance=person)
    password = NewPasswordForm(request, person, request.POST if "new-password" in request.POST else None)
    if "own" in request.POST and own.is_valid():
        own.save()
        messages.info(request, "Saved.")
        return redirect("me")
    if "new-password" in request.POST and password.is_valid():
        services.change_password(person, password.cleaned_data["password"])
        update_session_auth_hash(request, person)
        messages.info(request, "Password changed. You are signed out everywhere else.")
        return redirect("me")
    if "sign-out-others" in request.POST:
        ended = services.end_sessions(person, but=request.session.session_key or "")
        messages.info(request, f"Signed out in {ended} other place{'s' * (ended != 1)}.")
        return redirect("me")
    done, wrong_key = _keys(request, person)
    if done:
        return redirect("me")
    wrong = bool(own.errors or password.errors or wrong_key)
    shown: dict[str, Any] = {"own": own, "password": password, "places": len(services.sessions_of(person))}
    shown |= {
        "has_factor": has_factor(person),
        "keys": alive(person),
        "token": request.session.pop(MADE_KEY, ""),
        "wrong_key": wrong_key,
        "api": request.build_absolute_uri("/api/"),
    }
    return render(request, "accounts/me.html", shown, status=422 if wrong else 200)


def _keys(request: HttpRequest, person: Person) -> tuple[bool, str]:
    """Make or end a program's key if asked; returns whether that was done, and what was wrong."""
    if "end-key" in request.POST:
        try:
            end_key(person, _number(request, "end-key"))
        except ProgramKey.DoesNotExist as error:
            raise Http404 from error
        return True, ""
    if "make-key" not in request.POST:
        return False, ""
    try:
        token = make_key(person, request.POST.get("key-name", ""), writes="key-writes" in request.POST)
    except FaultsError as error:
        return False, " ".join(fault.message for fault in error.faults)
    # Shown once, on the next page; sending the same form again makes no second one.
    request.session[MADE_KEY] = token
    return True, ""
