"""Room to move: how far each thing may be changed by itself while every judged check stays clear, as a bar each."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_GET

from bench.page.bench import Bench, bench_or_404
from bench.page.show import show
from bench.stations.put_right.lines import TABS
from bench.stations.put_right.typed_lever import amount_words, outward, step_of, typed_lever
from mockup.changes.kind import ChangeKind
from mockup.checks.check import Check
from mockup.plans.levers import Lever
from mockup.plans.lobe_room import lobe_rooms
from mockup.plans.many import Many
from mockup.plans.room import OfLobe, Room, more_lift, rooms
from mockup.quantity.value import Unit
from mockup.stations import Station

WIDTH, LEFT = 360.0, 10.0


@dataclass(frozen=True, slots=True)
class Bar:
    """One room as drawn and said: the reach from end to end, what of it is clear, where the engine stands."""

    words: str
    says: str
    low: str
    high: str
    left: float
    width: float
    now: float
    tone: str
    address: str


@require_GET
def room_to_move(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the room of every lever."""
    bench = bench_or_404(build_id)
    many = Many(bench.report)
    found = (*lobe_rooms(many), *rooms(many))
    parts: dict[str, Any] = {
        "folder": "put_right/room_to_move",
        "wide_drawing": True,
        "tabs": TABS,
        "bars": [_bar(bench, one) for one in found],
        "first": _first(bench, found),
        "count": len(many.checks),
        "unread": sum(check.required and check.figure is None for check in bench.report.checks),
    }
    return show(request, bench, Station.RIGHT, parts)


def _first(bench: Bench, found: tuple[Room, ...]) -> str:
    """How much more it could run, in a line: rockers lift every point of the lobe alike, as more lift would."""
    pulled = (one for one in found if isinstance(one.lever, Lever) and one.lever.kind is ChangeKind.ROCKERS)
    rockers = next(pulled, None)
    if rockers is None or rockers.unknown:
        return "How much more lift it takes is not known: enter the cam’s card and the rocker ratio, or measure a lobe."
    ratio = bench.report.engine.ratio
    share = more_lift(rockers, ratio)
    if share is None:
        way = rockers.in_the_way.label if rockers.in_the_way else ""
        return f"It takes no more lift as it stands: {way} is not clear."
    more = f"{share:.0%} more lift at equal duration, as a ratio of {ratio * (1 + share):.3f}"
    beyond = f"; then {rockers.high_check.label} is no longer clear" if rockers.high_check else ", as far as was looked"
    return f"It takes up to {more}{beyond}."


def _bar(bench: Bench, room: Room) -> Bar:
    unit, (low, high) = bench.unit, room.reach
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
        address=_address(bench, room),
    )


def _says(room: Room, unit: Unit) -> str:
    if room.unknown:
        return "not known: what it would do, only a lobe tells"
    if room.low is None or room.high is None:
        way = f"; now {room.in_the_way.label} is not" if room.in_the_way else ""
        return f"by itself it does not make everything clear{way}"
    ends = f"{_end(room, room.low, room.low_check, unit)}; {_end(room, room.high, room.high_check, unit)}"
    if room.holds_now:
        return ends
    assert room.nearest is not None
    way = f"{room.in_the_way.label} is not clear now; " if room.in_the_way else ""
    return f"{way}clear from {_amount(room, room.nearest, unit)}: {ends}"


def _end(room: Room, amount: float, check: Check | None, unit: Unit) -> str:
    said = _amount(room, amount, unit)
    return f"{said}, set by {check.label}" if check else f"{said} and beyond"


def _amount(room: Room, amount: float, unit: Unit) -> str:
    """An amount of the lever with its unit, signed."""
    if isinstance(room.lever, OfLobe):
        sign = "+" if amount > 0 else ("−" if amount < 0 else "")
        return f"{sign}{abs(amount):.1%}" if room.lever is OfLobe.LIFT else f"{sign}{abs(amount):.1f}°"
    return amount_words(room.lever, amount, unit)


def _address(bench: Bench, room: Room) -> str:
    """The what-if of the nearest that is clear; empty where it is clear now, or can be typed there by no one field."""
    if not room.nearest or room.holds_now or isinstance(room.lever, OfLobe):
        return ""
    typed = typed_lever(bench.report, room.lever, outward(room.nearest, step_of(room.lever, bench.unit)))
    return f"{reverse('put-right', args=[bench.build.pk])}?{urlencode(typed)}" if typed else ""
