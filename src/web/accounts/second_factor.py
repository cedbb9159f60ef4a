"""A person's own second factor: turning it on with an authenticator, and off."""

from base64 import b32encode

import segno
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.safestring import mark_safe
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters

from web.shops.access import person_of
from web.shops.asked_again import password_again
from web.shops.second_factor import begin, confirm, has_factor, take_off

IN_FOURS = 4
WRONG = "That code is not right. Check the authenticator’s clock, and wait for the next code."


@never_cache
@sensitive_post_parameters("code")
@password_again("begin", "take-off")
def second_factor(request: HttpRequest) -> HttpResponse:
    """Show whether it is on; turn it on with a first code, or off."""
    person = person_of(request)
    shown: dict[str, object] = {"has": has_factor(person)}
    if request.method == "POST" and "take-off" in request.POST:
        take_off(person, person)
        messages.info(request, "Second factor turned off. You sign in with your password alone now.")
        return redirect("second-factor")
    if request.method == "POST" and not shown["has"]:
        code = request.POST.get("code", "").replace(" ", "")[:40]
        if "confirm" in request.POST and (codes := confirm(person, code)):
            return render(request, "accounts/second_factor.html", {"codes": codes, "has": True})
        device = begin(person)
        secret = b32encode(device.bin_key).decode()
        shown |= {
            "secret": " ".join(secret[at : at + IN_FOURS] for at in range(0, len(secret), IN_FOURS)),
            # Made from the authenticator's address by a library that writes a path and no typed text.
            "drawn": mark_safe(segno.make(device.config_url).svg_inline(scale=5, border=4, light="white")),  # noqa: S308
            "wrong": WRONG if "confirm" in request.POST else "",
        }
    return render(request, "accounts/second_factor.html", shown, status=422 if shown.get("wrong") else 200)
