"""How the shelf changes: things are put on it and taken off it, never edited, since builds count on them."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from bench.shelf.models import ShelfInstrument, Shelved
from bench.shops.models import Person


@transaction.atomic
def put_on(thing: Shelved, by: Person) -> Shelved:
    """Put a gasket or shims on the shelf of the person's shop."""
    assert by.shop is not None
    thing.shop = by.shop
    thing.save(force_insert=True)
    return thing


@transaction.atomic
def add_instrument(by: Person, **figures: Any) -> ShelfInstrument:
    """Add an instrument to the shop's list under a key of its own."""
    number = ShelfInstrument.objects.select_for_update().count() + 1
    found = put_on(ShelfInstrument(key=f"own-{number}", **figures), by)
    assert isinstance(found, ShelfInstrument)
    return found


@transaction.atomic
def take_off(thing: Shelved) -> None:
    """Take something off the shelf; what was read or built with it stays as it was."""
    thing.off_since = thing.off_since or timezone.now()
    thing.save(update_fields=["off_since"])
