"""How long somebody stays signed in: thirty days; on a device that others use, until it was idle for twelve hours."""

import time

from django.conf import settings
from django.contrib.auth import logout
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.backends.base import SessionBase
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse

from bench.shops.models import Person
from bench.shops.scope import GetResponse

BEGUN, SHARED, SEEN, PROVED = "begun", "shared", "seen", "proved"
IDLE_S = 12 * 3600
NOTED_EVERY_S = 300
"""So seldom it is written down that a shared device was used [s]."""


@receiver(user_logged_in)
def _begin(request: HttpRequest, user: Person, **_: object) -> None:  # noqa: ARG001, what Django sends
    now = int(time.time())
    request.session[BEGUN] = request.session[PROVED] = now


def share(session: SessionBase) -> None:
    """End this session once the device was idle for twelve hours, and with its browser."""
    session[SHARED], session[SEEN] = True, int(time.time())
    session.set_expiry(0)


class SessionAgeMiddleware:
    """Signs somebody out whose session is too old; a page of theirs then asks them to sign in again."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        if request.user.is_authenticated:
            now, session = int(time.time()), request.session
            # Of before sessions were dated: counted from now on.
            begun = session.get(BEGUN) or session.setdefault(BEGUN, now)
            idle = now - session.get(SEEN, now)
            if now - begun > settings.SESSION_COOKIE_AGE or (session.get(SHARED) and idle > IDLE_S):
                logout(request)
            elif session.get(SHARED) and idle > NOTED_EVERY_S:
                session[SEEN] = now
        return self.get_response(request)
