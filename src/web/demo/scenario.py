"""The made-up scenario: a restoration and race shop, its people, its shelf and its builds.

All of it is invented.
"""

from django.db import transaction
from django_scopes import scope, scopes_disabled

from mockup.quantity.value import MM_PER_INCH, MM_PER_THOU
from mockup.readings.instruments import Calibration
from web.builds.models import Build
from web.builds.services import save_build
from web.builds.summaries import put_off
from web.demo.bittern import bittern
from web.demo.cams import cams_of_the_shelf
from web.demo.lapwing import lapwing
from web.demo.plover import plover
from web.demo.wren import wren
from web.shelf.models import ShelfGasket, ShelfPushrod, ShelfShim
from web.shelf.services import add_instrument, calibrate, put_on
from web.shops.models import Person, Shop

SHOP = "Saltmarsh Engine Works"
MEMBER = "ottoline"
BUILDER = "rosalind"
VIEWER = "barnaby"


def load() -> None:
    """Make the demo shop if it is missing; an existing one is left alone."""
    with scopes_disabled(), transaction.atomic():
        shop, fresh = Shop.objects.get_or_create(name=SHOP)
        if not fresh:
            return
        ottoline = Person(username=MEMBER, first_name="Ottoline", shop=shop, role=Person.Role.OWNER)
        rosalind = Person(username=BUILDER, first_name="Rosalind", shop=shop)
        barnaby = Person(username=VIEWER, first_name="Barnaby", shop=shop, role=Person.Role.VIEWER)
        for person in (ottoline, rosalind, barnaby):
            person.set_unusable_password()
            person.save()
    with scope(shop=shop):
        fill(ottoline)


def is_demo_shop(shop: Shop) -> bool:
    """Whether this is the demo's own shop."""
    return shop.name == SHOP


@transaction.atomic
def afresh(by: Person) -> None:
    """Load the demo's builds again; the present ones are kept under another name.

    Nothing else of the shop changes: a visitor's builds and the shelf stay.
    """
    for build in Build.objects.filter(name__in=NAMES):
        save_build(build, by, name=f"{build.name}, as it was")
    _builds(by)


NAMES = ("Bittern", "Wren", "Lapwing", "Plover")
"""The names of the demo's builds."""


@transaction.atomic
def fill(by: Person) -> None:
    """Load the demo's builds and shelf into an empty shop."""
    _shelf(by)
    _builds(by)


def _builds(by: Person) -> None:
    # The story has two people at the bench; in a shop of one person everything is theirs.
    others = Person.objects.filter(shop=by.shop, role=Person.Role.MEMBER, is_active=True)
    other = others.exclude(pk=by.pk).first() or by
    with put_off():
        bittern(by, other)
        wren(by, other)
        lapwing(other)
        plover(other)


GASKETS_INCH = (
    ("steel, three layers", 3.825, 36, None),
    ("composite, soft face", 3.830, 41, 48),
    ("steel, with a shim layer", 3.825, 51, None),
    ("soft copper", 3.820, 43, None),
)
"""Name, bore in inches, compressed and free thickness in thou."""
GASKETS_MM = (
    ("aluminium ring, thin", 93.0, 1.00, None),
    ("aluminium ring", 93.0, 1.15, None),
    ("aluminium ring, thick", 93.0, 1.30, None),
    ("composite, 86 bore", 87.0, 0.95, 1.20),
    ("composite, 86 bore, thick", 87.0, 1.15, 1.45),
)
"""Name, bore, compressed and free thickness in mm."""
SHIMS_MM = ((0.10, 6), (0.15, 4), (0.25, 6), (0.40, 4), (0.50, 4))


def _shelf(by: Person) -> None:
    for name, bore, compressed, free in GASKETS_INCH:
        put_on(
            ShelfGasket(
                name=name,
                bore_mm=round(bore * MM_PER_INCH, 6),
                compressed_mm=round(compressed * MM_PER_THOU, 6),
                free_mm=round(free * MM_PER_THOU, 6) if free else None,
            ),
            by,
        )
    for name, bore, compressed_mm, free_mm in GASKETS_MM:
        put_on(ShelfGasket(name=name, bore_mm=bore, compressed_mm=compressed_mm, free_mm=free_mm), by)
    for thickness, stock in SHIMS_MM:
        put_on(ShelfShim(thickness_mm=thickness, stock=stock), by)
    for inches, stock in ((9.85, 12), (9.90, 4)):
        put_on(ShelfPushrod(length_mm=round(inches * MM_PER_INCH, 6), stock=stock), by)
    cams_of_the_shelf(by)
    bridge = add_instrument(by, name="bridge with the tenth dial", use="bridge", resolution_mm=0.002, accuracy_mm=0.004)
    calibrate(bridge, Calibration(on="2026-02-02", until="2027-02-02", by="the county laboratory"), by)
