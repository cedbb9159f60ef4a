"""A second factor: codes of an authenticator (TOTP, RFC 6238), and eight on paper."""

from django.db import transaction
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from web.shops.models import Person
from web.shops.passes import note

ON_PAPER = 8


def has_factor(person: Person) -> bool:
    """Return whether a person is asked for a code after the password."""
    return bool(TOTPDevice.objects.filter(user=person, confirmed=True).exists())


def begin(person: Person) -> TOTPDevice:
    """Return the authenticator being set up; it counts once a first code was right."""
    found: TOTPDevice | None = TOTPDevice.objects.filter(user=person, confirmed=False).first()
    return found or TOTPDevice.objects.create(user=person, name="authenticator", confirmed=False)


@transaction.atomic
def confirm(person: Person, code: str) -> list[str]:
    """Turn the second factor on if the first code is right.

    Returns the codes on paper, or none if it is wrong.
    """
    device = begin(person)
    if has_factor(person) or not device.verify_token(code):
        return []
    device.confirmed = True
    device.save()
    StaticDevice.objects.filter(user=person).delete()
    paper = StaticDevice.objects.create(user=person, name="on paper")
    codes = [StaticToken.random_token() for _ in range(ON_PAPER)]
    StaticToken.objects.bulk_create(StaticToken(device=paper, token=code) for code in codes)
    if person.shop:
        note(person.shop, person, f"{person.shown_name} signs in with a second factor")
    return codes


@transaction.atomic
def take_off(person: Person, by: Person) -> None:
    """Turn a person's second factor off."""
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
    if person.shop:
        note(person.shop, by, f"turned off the second factor of {person.shown_name}")
