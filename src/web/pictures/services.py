"""Every way pictures change: added, made evidence, printed, removed."""

from collections.abc import Callable
from dataclasses import dataclass
from io import BytesIO
from typing import IO, TYPE_CHECKING, Any
from uuid import UUID

import numpy as np
from django.core.files.base import ContentFile
from django.db.models import Sum
from django.utils import timezone
from PIL import Image

from mockup.base.faults import Fault, refuse
from mockup.camera.marks import Marks
from mockup.engine.valves import Place
from mockup.quantity.shown import format_both
from mockup.quantity.value import Unit
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.instruments import CAMERA
from web.builds import services
from web.builds.entry_kinds import kept, record_of
from web.builds.models import Build, Entry
from web.drawings.slice_profile import few
from web.pictures.decoding import decoded
from web.pictures.models import LONGEST_WORDS, Evidence, Picture, bytes_of
from web.shops.models import Person

if TYPE_CHECKING:
    from mockup.camera.measure import Seen

MOST_OF_A_BUILD = 200
MOST_OF_A_SHOP = 20_000_000_000
MOST_ON_A_SHEET = 12


def keep_picture(
    build: Build,
    by: Person,
    file: IO[bytes],
    size: int,
    *,
    words: str = "",
    mockup: str = "",
    entry: Entry | None = None,
) -> Picture:
    """Add a picture to a build. Raises FaultsError for a refused file, or one too many."""
    words = _called(words)
    found = decoded(file, size)
    with services.locked(build) as now:
        refuse(_too_many(now, len(found.jpeg)))
        picture = Picture(build=now, by=by, words=words, mockup=mockup, size=len(found.jpeg))
        picture.width, picture.height = found.width, found.height
        picture.file.save("picture.jpg", ContentFile(found.jpeg), save=False)
        picture.small.save("small.jpg", ContentFile(found.small), save=False)
        picture.save(force_insert=True)
        if entry is not None:
            Evidence.objects.create(picture=picture, entry=entry)
    return picture


def _called(words: str) -> str:
    words = words.strip()
    refuse([] if len(words) <= LONGEST_WORDS else [Fault("words", f"At most {LONGEST_WORDS} characters.")])
    return words


def _too_many(build: Build, more: int) -> list[Fault]:
    here = Picture.objects.filter(build=build, removed_at=None).count()
    if here >= MOST_OF_A_BUILD:
        return [Fault("picture", f"This build has {here} pictures: remove one first.")]
    used = Picture.objects.filter(removed_at=None).aggregate(all=Sum("size"))["all"] or 0
    full = f"The shop’s pictures use {used / 1e9:.1f} GB of {MOST_OF_A_SHOP / 1e9:.0f}: remove some first."
    return [Fault("picture", full)] if used + more > MOST_OF_A_SHOP else []


def seen_in(picture: Picture, marks: Marks) -> "Seen":
    """Return what a picture shows by its marks."""
    # Importing the image code takes a while: only measuring waits for it.
    from mockup.camera.measure import measure  # noqa: PLC0415

    with Image.open(BytesIO(bytes_of(picture.file))) as opened:
        return measure(np.asarray(opened.convert("RGB")), marks)


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """Where a thickness from a picture goes: valve, gap, mock-up, place on the imprint."""

    place: Place
    gap: Gap
    mockup: str
    spot: str = ""


def take_reading(
    picture: Picture,
    marks: Marks,
    at: Taken,
    by: Person,
    token: UUID | None,
    check: Callable[[float], None] = lambda _: None,
) -> Entry | None:
    """Measure a picture again and write the result into the log, with the picture as evidence.

    ``check`` is given the thickness [mm] before it is written, and raises FaultsError where another one was shown.
    Returns None where the same token wrote it before. Raises FaultsError where it cannot be measured honestly.
    """
    seen = seen_in(picture, marks)
    if seen.thickness is None:
        refuse(Fault("picture", words) for words in seen.refused)
    assert seen.thickness is not None, "what has no thickness was refused"
    check(seen.thickness.value)
    thick = round(seen.thickness.value, 5)
    reading = ClayReading(
        mockup=at.mockup,
        place=at.place,
        gap=at.gap,
        spot=at.spot,
        thickness_mm=thick,
        instrument=CAMERA,
        u_mm=round(seen.thickness.u, 6),
    )
    with services.locked(picture.build) as now:
        # It may have been removed while it was measured; a reading without evidence is not written.
        there = Picture.objects.filter(pk=picture.pk, removed_at=None).exists()
        refuse([] if there else [Fault("picture", "This picture was removed meanwhile.")])
        typed = f"{format_both(thick, Unit(now.unit))} by picture"
        entry = services.write(now, reading, by, typed=typed, token=token)
        if entry is not None:
            Evidence.objects.create(picture=picture, entry=entry, marks=kept(marks), seen=_to_draw(seen))
    return entry


def marks_of(evidence: Evidence) -> Marks:
    """Return the marks that a reading was measured by."""
    found: Marks = record_of(Marks, evidence.marks or {})
    return found


def _to_draw(seen: "Seen") -> dict[str, Any]:
    """Return what of a measurement is later drawn over its picture, in whole pixels."""
    assert seen.thinnest is not None
    assert seen.thickness is not None
    return {
        "edges": [few(one) for one in seen.edges],
        "thinnest": few(seen.thinnest),
        "thickness_mm": seen.thickness.value,
        "expanded_mm": seen.thickness.expanded,
    }


def change(picture: Picture, *, words: str | None = None, on_sheet: bool | None = None) -> None:
    """Change a picture's caption, or whether it is printed on the build sheet.

    Raises FaultsError.
    """
    with services.locked(picture.build):
        if words is not None:
            picture.words = _called(words)
        if on_sheet is not None:
            others = Picture.objects.filter(build=picture.build_id, on_sheet=True).exclude(pk=picture.pk).count()
            full = f"The build sheet has {others} pictures, the most it takes. Take one off first."
            refuse([Fault("on_sheet", full)] if on_sheet and others >= MOST_ON_A_SHEET else [])
            picture.on_sheet = on_sheet
        picture.save(update_fields=["words", "on_sheet"])


def remove(picture: Picture, by: Person, reason: str) -> None:
    """Delete a picture's bytes, and record who did and why.

    Raises FaultsError while a reading rests on it.
    """
    reason = reason.strip()
    with services.locked(picture.build):
        wrong = [] if 0 < len(reason) <= LONGEST_WORDS else [Fault("reason", "A reason of up to 200 characters.")]
        rests = Evidence.objects.filter(picture=picture, entry__struck_reason="", marks__isnull=False).exists()
        wrong += [Fault("reason", "A reading was measured in it: strike that out first.")] if rests else []
        refuse(wrong)
        for file in (picture.file, picture.small):
            file.delete(save=False)
        picture.removed_reason, picture.removed_by, picture.removed_at = reason, by, timezone.now()
        picture.on_sheet, picture.size = False, 0
        picture.save()
