"""Remembered browsers, and names that are slowed down. Guessing elsewhere locks nobody out.

A name and an address are locked together (django-axes). A name alone is only slowed down, except on its person's own
devices. A device with too many wrong passwords is forgotten, and is then like any other.
"""

import secrets
from datetime import timedelta
from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.signals import user_login_failed
from django.db.models import F, Max, Sum
from django.db.models.functions import Least
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from web.shops.models import Device, Person
from web.shops.passes import digest_of

COOKIE = "device"
LASTS = timedelta(days=180)
FREE_TRIES = 16
"""Wrong passwords for one name, from all addresses, before it is slowed down [1]."""
LONGEST_WAIT_S, LONGEST_DOUBLED = 60, 6


def remember(request: HttpRequest, response: HttpResponse, person: Person) -> None:
    """Give the browser a cookie that marks it as one of the person's devices."""
    if device := device_of(request, person.username):
        Device.objects.filter(pk=device.pk).update(failures=0, at=timezone.now())
        return
    Device.objects.filter(at__lt=timezone.now() - LASTS).delete()
    token = secrets.token_urlsafe(32)
    Device.objects.create(person=person, digest=digest_of(token))
    response.set_cookie(
        COOKIE,
        token,
        max_age=LASTS,
        secure=settings.SESSION_COOKIE_SECURE,
        httponly=True,
        samesite="Lax",
    )


def device_of(request: HttpRequest, username: str) -> Device | None:
    """Return the browser's device if it belongs to the person who signs in with that name."""
    token = request.COOKIES.get(COOKIE, "")
    if not token:
        return None
    after = timezone.now() - LASTS
    return Device.objects.filter(digest=digest_of(token), person__username=username, at__gt=after).first()


def is_remembered(request: HttpRequest, credentials: dict[str, Any] | None = None) -> bool:
    """Return whether a wrong password counts against the device alone (called by django-axes)."""
    username = (credentials or {}).get("username") or ""
    return device_of(request, str(username)) is not None


@receiver(user_login_failed)
def _count(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    device = device_of(request, str(credentials.get("username") or "")) if request is not None else None
    if device is None:
        return
    Device.objects.filter(pk=device.pk).update(failures=F("failures") + 1)
    Device.objects.filter(pk=device.pk, failures__gte=settings.AXES_FAILURE_LIMIT).delete()


def wait_s(request: HttpRequest, username: str) -> int:
    """Return how long until a password for this name is checked again [s]; 0 for now."""
    if device_of(request, username) is not None:
        return 0
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    tried = AccessAttempt.objects.filter(username=username, attempt_time__gt=since)
    # An address that is already locked slows nobody else down, however often it tries.
    most = settings.AXES_FAILURE_LIMIT
    count = tried.aggregate(count=Sum(Least("failures_since_start", most)))["count"] or 0
    last = tried.filter(failures_since_start__lt=most).aggregate(last=Max("attempt_time"))["last"]
    if count < FREE_TRIES or last is None:
        return 0
    waits = LONGEST_WAIT_S if count - FREE_TRIES > LONGEST_DOUBLED else min(2 ** (count - FREE_TRIES), LONGEST_WAIT_S)
    gone_s: float = (timezone.now() - last).total_seconds()
    return max(0, round(waits - gone_s))
