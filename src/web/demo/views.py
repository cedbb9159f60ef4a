"""Entering the demo shop without a password, and reloading its builds."""

from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from web.demo.scenario import MEMBER, afresh, is_demo_shop
from web.shops.access import BACKEND, member_writes, person_of
from web.shops.models import Person


@login_not_required
@require_POST
def enter(request: HttpRequest) -> HttpResponse:
    """Sign in to the demo shop."""
    login(request, get_object_or_404(Person, username=MEMBER), backend=BACKEND)
    return redirect("builds")


@require_POST
@member_writes
def reset(request: HttpRequest) -> HttpResponse:
    """Load the demo's builds again; the present ones are kept, and other shops are not affected."""
    person = person_of(request)
    if person.shop is None or not is_demo_shop(person.shop):
        raise Http404
    afresh(person)
    messages.info(request, "The demo’s builds were loaded again. The earlier ones are kept as they were.")
    return redirect("builds")
