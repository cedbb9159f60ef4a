"""Pictures on a build sheet, embedded in the page, so they travel with the sheet."""

from base64 import b64encode
from dataclasses import dataclass

from mockup.quantity.shown import format_both, format_expanded
from mockup.quantity.value import BENCH_UNIT
from web.drawings.slice_profile import polyline
from web.page.build_page import BuildPage
from web.page.log_words import where_of
from web.pictures.models import Evidence, Picture, bytes_of
from web.shops.clock import stamp


@dataclass(frozen=True, slots=True)
class Shown:
    """One picture: its bytes as a data address, its size [px], its readings, and its caption."""

    address: str
    width: int
    height: int
    lines: tuple[str, ...]
    thinnest: tuple[str, ...]
    words: str
    shows: tuple[str, ...]
    by: str


def pictures_on(page: BuildPage) -> list[Shown]:
    """Return the pictures chosen for the build sheet, with their readings."""
    pictures = [one for one, _ in page.pictures if one.on_sheet and one.removed_at is None]
    if not pictures:
        return []
    evidence = Evidence.objects.filter(picture__in=pictures, entry__struck_reason="").select_related("entry")
    return [_shown(one, [e for e in evidence if e.picture_id == one.pk], page) for one in pictures]


def seen_with(page: BuildPage) -> str:
    """Return the version of a build sheet: its build, and its pictures with their captions."""
    on_it = [(one.pk, one.words, entries) for one, entries in page.pictures if one.on_sheet and one.removed_at is None]
    return f"{page.touched} {on_it}" if on_it else page.touched


def _shown(picture: Picture, evidence: list[Evidence], page: BuildPage) -> Shown:
    seen = [one.seen for one in evidence if one.seen]
    return Shown(
        address=f"data:image/jpeg;base64,{b64encode(bytes_of(picture.small)).decode()}",
        width=picture.width,
        height=picture.height,
        lines=tuple(polyline(edge) for one in seen for edge in one["edges"]),
        thinnest=tuple(polyline(one["thinnest"]) for one in seen),
        words=picture.words,
        shows=tuple(_says(one, page) for one in evidence),
        by=f"{picture.by.shown_name}, {stamp(picture.at)[:10]}",
    )


def _says(one: Evidence, page: BuildPage) -> str:
    where = where_of(one.entry, page)
    if not one.seen:
        return f"{where} “{one.entry.typed}”".strip()
    thick, expanded = one.seen["thickness_mm"], one.seen["expanded_mm"]
    unit = BENCH_UNIT[page.unit]
    return f"{where}: {format_both(thick, page.unit)}, ±{format_expanded(expanded, page.unit)} {unit}"
