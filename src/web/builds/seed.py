"""Many made-up builds, to see how the program does with a shop that has worked for years.

A few engines are written normally, and then copied row by row. The copies' summaries are correct, since the rows are
the same.
"""

from copy import copy
from itertools import product
from typing import Any, TypeVar

from django.db import connection, transaction

from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.valves import Place, Side, ValveRow
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.record import Reading
from mockup.readings.volumes import VolumePart, VolumeReading
from web.builds import services
from web.builds.careful_answers import CAREFUL
from web.builds.models import Build, Entry, MockUp, Summary
from web.shops.models import Person

BIRDS = ("Avocet", "Dunlin", "Godwit", "Knot", "Sanderling", "Turnstone", "Whimbrel", "Redshank")
EXHAUSTS_MM = (2.9, 2.62, 2.4, 3.1, 2.55, 2.7, 3.3, 2.45)
"""The clay thicknesses of every exhaust [mm]: some engines are clear, some too close to call, some short."""
CYLINDERS = 6


def seed(by: Person, count: int, lines: int) -> None:
    """Put ``count`` builds with ``lines`` readings each (20 or more) into a person's shop."""
    patterns = [_pattern(by, at, lines) for at in range(min(count, len(BIRDS)))]
    for at, pattern in enumerate(patterns):
        _copied(pattern, len(range(at, count, len(patterns))) - 1)


@transaction.atomic
def _pattern(by: Person, at: int, lines: int) -> Build:
    row = ValveRow(angle_deg=15.0, diameter_mm=44.0)
    engine = Engine(cylinders=CYLINDERS, bore_mm=95.25, stroke_mm=98.4, rod_length_mm=172.7, intake=row, exhaust=row)
    signs = {"unit": Unit.INCH, "deck_sign": DeckSign.DOWN_POSITIVE, "limits": "street"}
    build = services.save_build(Build(), by, name=f"{BIRDS[at]} 1", engine=engine, **signs)
    with services.locked(build):
        services.write(build, FinalGasket(name="steel", compressed_mm=0.9, bore_mm=97.0), by)
        stood = CoreMockUp(
            key="",
            gasket_state=GasketState.COMPRESSED,
            gasket_mm=0.9,
            **CAREFUL,
        )
        letter = services.save_mockup(build, by, stood).letter
        cylinders = range(1, CYLINDERS + 1)
        read: list[Reading] = [DeckReading(key="", cylinder=n, clearance_mm=0.1 + 0.01 * n) for n in cylinders]
        read += [VolumeReading(key="", part=VolumePart.CHAMBER, cylinder=n, cc=70.0) for n in cylinders]
        read += [VolumeReading(key="", part=VolumePart.PISTON, cc=5.0)]
        places = list(product(cylinders, (Side.INTAKE, Side.EXHAUST)))
        for turn in range(lines - len(read)):
            cylinder, side = places[turn % len(places)]
            thick = (EXHAUSTS_MM[at] if side is Side.EXHAUST else 2.5) + 0.01 * (turn // len(places))
            read.append(ClayReading(key="", mockup=letter, place=Place(cylinder, side), thickness_mm=thick))
        for reading in read:
            services.write(build, reading, by, typed="made up")
    return build


@transaction.atomic
def _copied(pattern: Build, more: int) -> None:
    """Copy rows in the database itself: a hundred thousand take seconds."""
    bird = pattern.name.rpartition(" ")[0]
    builds = Build.objects.bulk_create(
        (_again(pattern, name=f"{bird} {number}") for number in range(2, more + 2)), batch_size=1000
    )
    numbers = [build.pk for build in builds]
    with connection.cursor() as cursor:
        for model, skipped in ((Entry, "token"), (MockUp, "")):
            table = model._meta.db_table  # noqa: SLF001, Django's documented way to a table's name
            names = [field.column for field in model._meta.fields]  # noqa: SLF001
            kept = [name for name in names if name not in ("id", "build_id", skipped)]
            columns = ", ".join(f'"{name}"' for name in kept)
            theirs = ", ".join(f'line."{name}"' for name in kept)
            cursor.execute(
                f"INSERT INTO {table} (build_id, {columns}) SELECT fresh, {theirs}"  # noqa: S608
                f" FROM unnest(%s::bigint[]) fresh, {table} line WHERE line.build_id = %s ORDER BY fresh, line.id",
                [numbers, pattern.pk],
            )
    summary = Summary.objects.get(build=pattern)
    _, *others = summary.words.split(" · ")
    Summary.objects.bulk_create(
        (_again(summary, build=build, words=" · ".join([str(build).lower(), *others])) for build in builds),
        batch_size=1000,
    )


Row = TypeVar("Row", Build, Summary)


def _again(row: Row, **other: Any) -> Row:
    """The same row once more, not kept yet, with something other in it."""
    fresh = copy(row)
    fresh.pk = None
    for name, value in other.items():
        setattr(fresh, name, value)
    return fresh
