"""A figure that was reached in steps: the reading itself, then one rung for each correction.

Each rung says what its uncertainty comes from, so that a figure can tell what its U is made of. Sources: GUM, JCGM
100:2008, 5.1.2 (independent parts), 5.2.2 (parts that are not), G.4 (degrees of freedom).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.quantity.value import Value, of_variance


class Doubt(StrEnum):
    """What an uncertainty comes from."""

    REPEATABILITY = "repeatability"
    INSTRUMENT = "instrument"
    TILT = "dial tilt"
    GASKET = "gasket"
    CURVE = "curve between readings"
    ANGLE = "angle not found"
    LOBE = "lobe"
    TABLE = "lobe table"
    TIMING = "cam timing"
    ROCKERS = "rocker ratio"
    WHEEL = "degree wheel"
    CRANK = "stroke and rod"
    CHANGES = "cuts and changes"
    CLAY = "soft clay"
    DECK = "deck"
    SIDEWAYS = "valve moved sideways"
    PARTS = "part to part"
    DIMENSIONS = "bore and stroke"
    CHAMBER = "chamber"
    PISTON = "piston"
    PUSHROD = "pushrod length"


@dataclass(frozen=True, slots=True)
class Part:
    """One part of an uncertainty: what it comes from, and its standard uncertainty [mm or 1]."""

    of: Doubt
    u: float


@dataclass(frozen=True, slots=True)
class Rung:
    """One correction, on the way from the figure as read to the figure as it will run.

    ``delta`` is what it adds [mm or 1] with its standard uncertainty; the first rung is the reading itself. ``of``:
    what that uncertainty comes from; ``parts`` where it comes from several things. ``shared``: covariance with the sum
    of the rungs before it [mm2], 0 where it is independent of them; ``few``: what that adds to u^4 over its degrees of
    freedom, where it rests on the same few readings [mm4].
    """

    text: str
    delta: Value
    of: Doubt = Doubt.REPEATABILITY
    parts: tuple[Part, ...] = ()
    shared: float = 0.0
    few: float = 0.0


def running_figure(ladder: Iterable[Rung]) -> Value:
    """The sum of a ladder's rungs [mm or 1], independent but for what they say they share."""
    total, variance, fourth = 0.0, 0.0, 0.0
    for rung in ladder:
        total += rung.delta.value
        variance += rung.delta.u**2 + 2 * rung.shared
        fourth += rung.delta.fourth + rung.few
    return of_variance(total, variance, fourth)


def parts_of(ladder: Iterable[Rung]) -> tuple[Part, ...]:
    """What a figure's uncertainty is made of, the largest part first; parts of one kind together."""
    found: dict[Doubt, float] = {}
    for rung in ladder:
        for part in rung.parts or (Part(rung.of, rung.delta.u),):
            found[part.of] = found.get(part.of, 0.0) + part.u**2
        if rung.shared:
            found[rung.of] = found.get(rung.of, 0.0) + 2 * rung.shared
    parts = [Part(of, variance**0.5) for of, variance in found.items() if variance > 1e-12]
    return tuple(sorted(parts, key=lambda part: -part.u))
