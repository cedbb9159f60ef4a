"""How long a person stays signed in: thirty days, or twelve idle hours if shared."""

import time

from django.conf import settings
from django.contrib.auth import logout
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.backends.base import SessionBase
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse

from web.shops.models import Person
from web.shops.scope import GetResponse

BEGUN, SHARED, SEEN, PROVED = "begun", "shared", "seen", "proved"
IDLE_S = 12 * 3600
NOTED_EVERY_S = 300
"""The use of a shared device is recorded at most this often [s]."""


@receiver(user_logged_in)
def _begin(request: HttpRequest, user: Person, **_: object) -> None:  # noqa: ARG001, the signature is Django's
    now = int(time.time())
    request.session[BEGUN] = request.session[PROVED] = now


def share(session: SessionBase) -> None:
    """End this session when the device was idle for twelve hours, and with its browser."""
    session[SHARED], session[SEEN] = True, int(time.time())
    session.set_expiry(0)


class SessionAgeMiddleware:
    """Sign out a person whose session is too old; their page then asks them to sign in again."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        if request.user.is_authenticated:
            now, session = int(time.time()), request.session
            # A session from before sessions were dated counts from now.
            begun = session.get(BEGUN) or session.setdefault(BEGUN, now)
            idle = now - session.get(SEEN, now)
            if now - begun > settings.SESSION_COOKIE_AGE or (session.get(SHARED) and idle > IDLE_S):
                logout(request)
            elif session.get(SHARED) and idle > NOTED_EVERY_S:
                session[SEEN] = now
        return self.get_response(request)
