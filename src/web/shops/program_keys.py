"""Keys with which programs sign in, made and ended by the person they act for."""

import secrets
from datetime import timedelta

from django.contrib.auth.models import AnonymousUser
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone

from mockup.base.faults import Fault, refuse
from web.shops.models import Person, ProgramKey
from web.shops.passes import digest_of, note
from web.shops.scope import GetResponse

ADDRESS = "/api/"
"""Below this path only keys are accepted; everywhere else only sessions."""
OPEN = ("/api/openapi.json",)
MOST_KEYS = 20
LONGEST_NAME = 60
NOTED_EVERY = timedelta(minutes=1)
"""The use of a key is recorded at most this often, since a gauge asks ten times a second."""


def make_key(person: Person, name: str, *, writes: bool) -> str:
    """Make a key; returns its token, which is shown once and not stored. Raises FaultsError."""
    name = name.strip()
    refuse(
        []
        if 0 < len(name) <= LONGEST_NAME
        else [Fault("name", f"Say what it is for, in 1 to {LONGEST_NAME} characters.")]
    )
    count = alive(person).count()
    refuse([] if count < MOST_KEYS else [Fault("name", f"{count} keys are in use. End one first.")])
    refuse([Fault("writes", "You may only read, and so may your programs.")] if writes and not person.may_write else [])
    # Letters and figures only: a key that begins with a dash reads as an option on a command line.
    token = secrets.token_hex(24)
    ProgramKey.objects.create(person=person, name=name, digest=digest_of(token), writes=writes)
    _hears(person)
    if person.shop:
        note(person.shop, person, f"made a key for the program “{name}”")
    return token


def alive(person: Person) -> QuerySet[ProgramKey]:
    """Return a person's valid keys."""
    return ProgramKey.objects.filter(person=person, ended=None)


def _hears(person: Person) -> None:
    """Store whether a person's program may write, so that pages need no query for it."""
    person.hears_gauges = alive(person).filter(writes=True).exists()
    person.save(update_fields=["hears_gauges"])


def end_key(person: Person, number: int) -> ProgramKey:
    """End one of a person's keys. Raises ProgramKey.DoesNotExist."""
    key = alive(person).get(pk=number)
    key.ended = timezone.now()
    key.save(update_fields=["ended"])
    _hears(person)
    if person.shop:
        note(person.shop, person, f"ended the key of the program “{key.name}”")
    return key


def key_of(token: str) -> ProgramKey | None:
    """Return the valid key of a token, or None."""
    found = ProgramKey.objects.select_related("person__shop").filter(digest=digest_of(token), ended=None).first()
    if found is None or not found.person.is_active or found.person.shop is None:
        return None
    if found.used is None or timezone.now() - found.used > NOTED_EVERY:
        found.used = timezone.now()
        found.save(update_fields=["used"])
    return found


class ProgramKeyMiddleware:
    """Identify a program by its key; without one it gets 401, even with a session."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request, for a program as the key's person."""
        if not request.path_info.startswith(ADDRESS):
            return self.get_response(request)
        request.user = AnonymousUser()
        if request.path_info in OPEN:
            return self.get_response(request)
        word, _, token = request.headers.get("Authorization", "").partition(" ")
        key = key_of(token.strip()) if word.lower() == "bearer" and token else None
        if key is None:
            words = "Authentication required: Authorization: Bearer, and a key from its person’s page."
            return JsonResponse(
                {"faults": [{"path": "Authorization", "message": words}]},
                status=401,
                headers={"WWW-Authenticate": "Bearer"},
            )
        request.user = key.person
        request.program_key = key  # type: ignore[attr-defined]
        return self.get_response(request)
