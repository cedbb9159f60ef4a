"""The writes of the shelf: added and removed, never edited, as builds rely on things."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from mockup.engine.camshaft import Camshaft
from mockup.readings.instruments import Calibration
from web.shelf.models import ShelfCalibration, ShelfCam, ShelfInstrument, Shelved
from web.shops import request_cache
from web.shops.models import Person


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
    """Put a cam on the shelf by name; ``noted``: in the shop, price and note, as in the row."""
    row = ShelfCam(name=cam.name, **noted)
    row.keep(cam)
    found = put_on(row, by)
    assert isinstance(found, ShelfCam)
    return found


@transaction.atomic
def add_instrument(by: Person, **figures: Any) -> ShelfInstrument:
    """Add an instrument to the shop's list with its own key."""
    number = ShelfInstrument.objects.select_for_update().count() + 1
    found = put_on(ShelfInstrument(key=f"own-{number}", **figures), by)
    assert isinstance(found, ShelfInstrument)
    return found


@transaction.atomic
def calibrate(instrument: ShelfInstrument, done: Calibration, by: Person) -> ShelfCalibration:
    """Record a calibration of an instrument."""
    found: ShelfCalibration = ShelfCalibration.objects.create(
        instrument=instrument, on=done.on, until=done.until, by_whom=done.by, noted_by=by
    )
    request_cache.forget("instruments")
    return found


@transaction.atomic
def take_off(thing: Shelved) -> None:
    """Remove something from the shelf; what was read or built with it stays."""
    thing.off_since = thing.off_since or timezone.now()
    thing.save(update_fields=["off_since"])
    request_cache.forget("instruments")
