"""A form is executed once: pressed twice or sent again, it writes nothing more.

Every form that writes carries a token. Its first successful answer is stored under the token, in the same transaction
as what the form wrote; the same token again is redirected to where the first one went.
"""

from datetime import timedelta
from uuid import UUID

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from web.shops.models import Person, Sent
from web.shops.scope import GetResponse

REMEMBERED = timedelta(days=2)
LONGEST_ADDRESS = 500


def repeatable(request: HttpRequest) -> None:
    """Mark this answer as having written nothing, so that the same form may be sent again."""
    request.wrote_nothing = True  # type: ignore[attr-defined]


class OnceMiddleware:
    """Run a form that carries a token in one transaction with the record of it."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request, or redirect to where the same form went before."""
        token = _token(request)
        if token is None or not isinstance(request.user, Person):
            return self.get_response(request)
        with transaction.atomic():
            try:
                with transaction.atomic():
                    # A second request waits here until the first has answered.
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
    # Another person's token must not reveal where this form went.
    found = Sent.objects.filter(token=token).first()
    mine = found is not None and found.person_id == request.user.pk
    return redirect(found.location if found and mine and found.location else "builds")


def _token(request: HttpRequest) -> UUID | None:
    if request.method != "POST":
        return None
    try:
        return UUID(request.POST.get("once", ""))
    except ValueError:
        return None


def forget_old() -> int:
    """Delete the tokens of past days; returns how many [1]."""
    count, _ = Sent.objects.filter(at__lt=timezone.now() - REMEMBERED).delete()
    return count
