"""How the shelf changes: things are put on it and taken off it, never edited, since builds count on them."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from bench.shelf.models import ShelfCalibration, ShelfCam, ShelfInstrument, Shelved
from bench.shops import request_cache
from bench.shops.models import Person
from mockup.engine.camshaft import Camshaft
from mockup.instruments import Calibration


@transaction.atomic
def put_on(thing: Shelved, by: Person) -> Shelved:
    """Put a gasket or shims on the shelf of the person's shop."""
    assert by.shop is not None
    thing.shop = by.shop
    thing.save(force_insert=True)
    request_cache.forget("instruments")
    return thing


@transaction.atomic
def put_cam_on(cam: Camshaft, by: Person, **noted: Any) -> ShelfCam:
    """Put a cam on the shelf under its own name; ``noted``: had, price and note, as the row has them."""
    row = ShelfCam(name=cam.name, **noted)
    row.keep(cam)
    found = put_on(row, by)
    assert isinstance(found, ShelfCam)
    return found


@transaction.atomic
def add_instrument(by: Person, **figures: Any) -> ShelfInstrument:
    """Add an instrument to the shop's list under a key of its own."""
    number = ShelfInstrument.objects.select_for_update().count() + 1
    found = put_on(ShelfInstrument(key=f"own-{number}", **figures), by)
    assert isinstance(found, ShelfInstrument)
    return found


@transaction.atomic
def calibrate(instrument: ShelfInstrument, done: Calibration, by: Person) -> ShelfCalibration:
    """Write down that an instrument was calibrated."""
    found: ShelfCalibration = ShelfCalibration.objects.create(
        instrument=instrument, on=done.on, until=done.until, by_whom=done.by, noted_by=by
    )
    request_cache.forget("instruments")
    return found


@transaction.atomic
def take_off(thing: Shelved) -> None:
    """Take something off the shelf; what was read or built with it stays as it was."""
    thing.off_since = thing.off_since or timezone.now()
    thing.save(update_fields=["off_since"])
    request_cache.forget("instruments")
