"""One-time links: to make the first shop, to join one, to set a new password.

Only their digest is stored.
"""

import hashlib
import secrets
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from web.shops.models import Pass, Person, Shop, ShopLine

LASTS = {Pass.Kind.FIRST: timedelta(days=1), Pass.Kind.JOIN: timedelta(days=7), Pass.Kind.PASSWORD: timedelta(days=2)}
"""How long each is valid."""


def issue(
    kind: str, *, shop: Shop | None = None, person: Person | None = None, role: str = "", by: Person | None = None
) -> str:
    """Make a link; returns its token, which is shown once and not stored."""
    token = secrets.token_urlsafe(32)
    Pass.objects.create(
        digest=digest_of(token),
        kind=kind,
        shop=shop,
        person=person,
        role=role,
        made_by=by,
        ends=timezone.now() + LASTS[Pass.Kind(kind)],
    )
    return token


def digest_of(token: str) -> str:
    """Return the stored digest of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def found(token: str) -> Pass | None:
    """Return the valid link of a token, or None."""
    one = Pass.objects.filter(digest=digest_of(token), used=None, ends__gt=timezone.now()).first()
    if one is None or (one.kind == Pass.Kind.FIRST and Shop.objects.exists()):
        return None
    if one.made_by is not None and not (one.made_by.is_active and one.made_by.is_owner):
        return None  # its maker may no longer invite
    return one


@transaction.atomic
def use(one: Pass, **said: str) -> Person:
    """Use a link, once. Raises Pass.DoesNotExist where another request was faster."""
    held = Pass.objects.select_for_update().get(pk=one.pk, used=None)
    if held.kind == Pass.Kind.PASSWORD:
        assert held.person is not None
        person = held.person
        person.set_password(said["password"])
        words = f"{person.shown_name} set a new password by a link"
    else:
        person = _joined(held, said)
        words = f"{person.shown_name} made the shop" if held.kind == Pass.Kind.FIRST else f"{person.shown_name} joined"
    person.save()
    held.used = timezone.now()
    held.save(update_fields=["used"])
    assert person.shop is not None
    note(person.shop, person, words)
    return person


def _joined(held: Pass, said: dict[str, str]) -> Person:
    shop = held.shop if held.kind == Pass.Kind.JOIN else Shop.objects.create(name=said["shop"])
    role = held.role if held.kind == Pass.Kind.JOIN else Person.Role.OWNER
    person = Person(username=said["username"], first_name=said["name"], shop=shop, role=role)
    person.set_password(said["password"])
    return person


def note(shop: Shop, by: Person | None, words: str) -> None:
    """Write a change of access into the shop's own history."""
    ShopLine.objects.create(shop=shop, by=by, words=words[:200])
