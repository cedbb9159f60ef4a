"""A form is sent once: pressed twice, or sent again after an answer was lost, it writes nothing more.

Every form that writes carries a token. The first answer that is no refusal is remembered by it, in the transaction of
what the form wrote; the same token again is led to where the first one went.
"""

from datetime import timedelta
from uuid import UUID

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from bench.shops.models import Person, Sent
from bench.shops.scope import GetResponse

REMEMBERED = timedelta(days=2)
LONGEST_ADDRESS = 500


def repeatable(request: HttpRequest) -> None:
    """Say that this answer wrote nothing: the same form may be sent again as often as somebody likes."""
    request.wrote_nothing = True  # type: ignore[attr-defined]


class OnceMiddleware:
    """Runs a form that carries a token in one transaction with the memory of it."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request, or lead to where the same form went before."""
        token = _token(request)
        if token is None or not isinstance(request.user, Person):
            return self.get_response(request)
        with transaction.atomic():
            try:
                with transaction.atomic():
                    # A second one waits here until the first has answered.
                    sent = Sent.objects.create(token=token, person=request.user)
            except IntegrityError:
                return _as_before(request, token)
            response = self.get_response(request)
            _remember(request, sent, response)
        return response


def _remember(request: HttpRequest, sent: Sent, response: HttpResponse) -> None:
    if response.status_code >= 500:
        transaction.set_rollback(True)
    elif response.status_code >= 400 or getattr(request, "wrote_nothing", False):
        sent.delete()
    else:
        sent.location = response.get("Location", request.get_full_path())[:LONGEST_ADDRESS]
        sent.save(update_fields=["location"])


def _as_before(request: HttpRequest, token: UUID) -> HttpResponse:
    # Somebody else's token says nothing of where this form went.
    found = Sent.objects.filter(token=token).first()
    mine = found is not None and found.person_id == request.user.pk
    return redirect(found.location if found and mine and found.location else "stand")


def _token(request: HttpRequest) -> UUID | None:
    if request.method != "POST":
        return None
    try:
        return UUID(request.POST.get("once", ""))
    except ValueError:
        return None


def forget_old() -> int:
    """Forget the tokens of days ago; returns how many [1]."""
    count, _ = Sent.objects.filter(at__lt=timezone.now() - REMEMBERED).delete()
    return count
