"""Writes about people: roles, access, sessions, passwords."""

from django.contrib.sessions.models import Session
from django.db.models import Q
from django.utils import timezone

from web.builds.customer_links import end_links_of
from web.shops import passes
from web.shops.models import Pass, Person, Shop
from web.shops.program_keys import alive, end_key


def take_back(shop: Shop, number: int, by: Person) -> None:
    """Delete an unused link to join, by its number."""
    Pass.objects.filter(shop=shop, pk=number, used=None).delete()
    passes.note(shop, by, "took back a link to join")


def give_role(person: Person, role: str, shop: Shop, by: Person) -> None:
    """Give a person another role."""
    person.role = role
    passes.note(shop, by, f"{person.shown_name} is now {role}")
    person.save(update_fields=["role"])


def give_access(person: Person, shop: Shop, by: Person) -> None:
    """Let a person in again."""
    person.is_active = True
    passes.note(shop, by, f"{person.shown_name} access restored")
    person.save(update_fields=["is_active"])


def end_access(person: Person, shop: Shop, by: Person) -> None:
    """End every access of a person: sessions, devices, keys, and the links and keys they made."""
    person.is_active = False
    passes.note(shop, by, f"{person.shown_name} access removed; what they wrote stays")
    person.save(update_fields=["is_active"])
    end_sessions(person)
    person.devices.all().delete()
    for key in alive(person):
        end_key(person, key.pk)
    Pass.objects.filter(Q(made_by=person) | Q(person=person), used=None).delete()
    end_links_of(person, by)


def change_password(person: Person, password: str) -> None:
    """Set a person's password, and note it in the shop's log."""
    person.set_password(password)
    person.save(update_fields=["password"])
    if person.shop:
        passes.note(person.shop, person, f"{person.shown_name} changed their password")


def sessions_of(person: Person) -> list[Session]:
    """Return where a person is signed in."""
    alive_now = Session.objects.filter(expire_date__gt=timezone.now())
    return [one for one in alive_now.iterator() if one.get_decoded().get("_auth_user_id") == str(person.pk)]


def end_sessions(person: Person, but: str = "") -> int:
    """Sign a person out everywhere except in one session; returns how many sessions ended [1]."""
    ended = [one for one in sessions_of(person) if one.session_key != but]
    for one in ended:
        one.delete()
    return len(ended)
