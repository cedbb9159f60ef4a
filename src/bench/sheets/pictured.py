"""Pictures as they stand on a build sheet: within the page itself, so that they go wherever the sheet goes."""

from base64 import b64encode
from dataclasses import dataclass

from bench.drawings.slice_profile import polyline
from bench.page.bench import Bench
from bench.page.written import where_of
from bench.pictures.models import Evidence, Picture, bytes_of
from bench.shops.clock import stamp
from mockup.quantity.shown import format_both, format_expanded
from mockup.quantity.value import BENCH_UNIT


@dataclass(frozen=True, slots=True)
class Shown:
    """One picture: its bytes as an address, its size [px], the lines measured in it, and what is written under it."""

    address: str
    width: int
    height: int
    lines: tuple[str, ...]
    thinnest: tuple[str, ...]
    words: str
    shows: tuple[str, ...]
    by: str


def pictures_on(bench: Bench) -> list[Shown]:
    """The pictures that somebody put on the sheet of a build, with the readings that stand by them."""
    pictures = [one for one, _ in bench.pictures if one.on_sheet and one.removed_at is None]
    if not pictures:
        return []
    evidence = Evidence.objects.filter(picture__in=pictures, entry__struck_reason="").select_related("entry")
    return [_shown(one, [e for e in evidence if e.picture_id == one.pk], bench) for one in pictures]


def seen_with(bench: Bench) -> str:
    """What a build's sheet is as: its build, and the pictures that stand on it as they are called."""
    on_it = [(one.pk, one.words, entries) for one, entries in bench.pictures if one.on_sheet and one.removed_at is None]
    return f"{bench.touched} {on_it}" if on_it else bench.touched


def _shown(picture: Picture, evidence: list[Evidence], bench: Bench) -> Shown:
    seen = [one.seen for one in evidence if one.seen]
    return Shown(
        address=f"data:image/jpeg;base64,{b64encode(bytes_of(picture.small)).decode()}",
        width=picture.width,
        height=picture.height,
        lines=tuple(polyline(edge) for one in seen for edge in one["edges"]),
        thinnest=tuple(polyline(one["thinnest"]) for one in seen),
        words=picture.words,
        shows=tuple(_says(one, bench) for one in evidence),
        by=f"{picture.by.shown_name}, {stamp(picture.at)[:10]}",
    )


def _says(one: Evidence, bench: Bench) -> str:
    where = where_of(one.entry, bench)
    if not one.seen:
        return f"{where} “{one.entry.typed}”".strip()
    thick, expanded = one.seen["thickness_mm"], one.seen["expanded_mm"]
    unit = BENCH_UNIT[bench.unit]
    return f"{where}: {format_both(thick, bench.unit)}, ±{format_expanded(expanded, bench.unit)} {unit}"
