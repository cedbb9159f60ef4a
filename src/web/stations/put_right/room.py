"""Room to move: how far each lever may go alone while all is clear, as bars."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.urls import reverse

from mockup.changes.train import ROCKERS_CHANGED
from mockup.checks.check import Check
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever
from mockup.plans.lift_bound import lift_bound, lift_bound_words
from mockup.plans.lobe_room import lobe_rooms
from mockup.plans.room import OfLobe, Room, more_lift, rooms
from mockup.quantity.value import Unit
from web.page.build_page import BuildPage
from web.stations.put_right.typed_lever import amount_words, outward, step_of, typed_lever

WIDTH, LEFT = 360.0, 10.0


@dataclass(frozen=True, slots=True)
class Bar:
    """One room as drawn and worded: the reach, its clear part, and the present position."""

    words: str
    says: str
    low: str
    high: str
    left: float
    width: float
    now: float
    tone: str
    address: str


def parts_of_the_room(page: BuildPage, many: Batch) -> dict[str, Any]:
    """Return the room of every lever."""
    found = (*lobe_rooms(many), *rooms(many))
    return {"bars": [_bar(page, one) for one in found], "first": _first(many, found)}


def _first(many: Batch, found: tuple[Room, ...]) -> str:
    """Return how much more lift it could run, in a line."""
    remedy = (one for one in found if isinstance(one.lever, Lever) and one.lever.kind is ROCKERS_CHANGED)
    rockers = next(remedy, None)
    if rockers is None or rockers.unknown:
        bound = lift_bound(many)
        return lift_bound_words(bound, many.report.job.unit) if bound else "How much more lift it allows is not known."
    ratio = many.report.engine.ratio
    share = more_lift(rockers, ratio)
    if share is None:
        way = rockers.in_the_way.label if rockers.in_the_way else ""
        return f"It allows no more lift: {way} is not clear."
    more = f"{share:.0%} more lift at equal duration, as a ratio of {ratio * (1 + share):.3f}"
    beyond = (
        f"; then {rockers.high_check.label} is no longer clear" if rockers.high_check else ", the end of the search"
    )
    return f"It allows up to {more}{beyond}."


def _bar(page: BuildPage, room: Room) -> Bar:
    unit, (low, high) = page.unit, room.reach
    scale = WIDTH / ((high - low) or 1.0)

    def at(amount: float) -> float:
        return round(LEFT + (amount - low) * scale, 1)

    clear = (room.low, room.high) if room.low is not None and room.high is not None else (0.0, 0.0)
    words = str(room.lever)
    return Bar(
        words=words[:1].upper() + words[1:],
        says=_says(room, unit),
        low=_amount(room, low, unit),
        high=_amount(room, high, unit),
        left=at(clear[0]),
        width=round(at(clear[1]) - at(clear[0]), 1),
        now=at(0.0),
        tone="none" if room.unknown else ("clear" if room.holds_now else "short"),
        address=_address(page, room),
    )


def _says(room: Room, unit: Unit) -> str:
    if room.unknown:
        return "not known: only a lobe tells its effect"
    if room.low is None or room.high is None:
        way = f"; now {room.in_the_way.label} is not" if room.in_the_way else ""
        return f"it does not make everything clear alone{way}"
    ends = f"{_end(room, room.low, room.low_check, unit)}; {_end(room, room.high, room.high_check, unit)}"
    if room.holds_now:
        return ends
    assert room.nearest is not None
    way = f"{room.in_the_way.label} is not clear now; " if room.in_the_way else ""
    return f"{way}clear from {_amount(room, room.nearest, unit)}: {ends}"


def _end(room: Room, amount: float, check: Check | None, unit: Unit) -> str:
    said = _amount(room, amount, unit)
    return f"{said}, limited by {check.label}" if check else f"{said} and beyond"


def _amount(room: Room, amount: float, unit: Unit) -> str:
    """Return an amount of the lever with its unit, signed."""
    if isinstance(room.lever, OfLobe):
        sign = "+" if amount > 0 else ("−" if amount < 0 else "")
        return f"{sign}{abs(amount):.1%}" if room.lever is OfLobe.LIFT else f"{sign}{abs(amount):.1f}°"
    return amount_words(room.lever, amount, unit)


def _address(page: BuildPage, room: Room) -> str:
    """Return the what-if of the nearest clear amount; empty if clear, or not typable."""
    if not room.nearest or room.holds_now or isinstance(room.lever, OfLobe):
        return ""
    typed = typed_lever(page.report, room.lever, outward(room.nearest, step_of(room.lever, page.unit)))
    return f"{reverse('put-right', args=[page.build.pk])}?{urlencode(typed)}" if typed else ""
