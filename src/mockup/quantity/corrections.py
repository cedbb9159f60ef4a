"""A figure reached in steps: the reading itself, then one correction after another.

Each correction names the source of its uncertainty, so that a figure can tell what its U is made of. Sources: GUM, JCGM
100:2008, 5.1.2 (independent parts), 5.2.2 (parts that are not), G.4 (degrees of freedom).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.quantity.value import Value, of_variance


class UncertaintySource(StrEnum):
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

    of: UncertaintySource
    u: float


@dataclass(frozen=True, slots=True)
class Correction:
    """One correction on the way from the figure as read to the figure as it will run.

    ``delta``: what it adds [mm or 1], with its standard uncertainty; the first correction is the reading itself.
    ``of``: the source of that uncertainty; ``parts`` where there are several. ``shared``: covariance with the sum of
    the corrections before it [mm2], 0 where independent. ``few``: what that covariance adds to u^4 over its degrees of
    freedom, where both rest on the same few readings [mm4].
    """

    text: str
    delta: Value
    of: UncertaintySource = UncertaintySource.REPEATABILITY
    parts: tuple[Part, ...] = ()
    shared: float = 0.0
    few: float = 0.0


def running_figure(corrections: Iterable[Correction]) -> Value:
    """Return the sum of corrections [mm or 1], independent but for declared covariance."""
    total, variance, fourth = 0.0, 0.0, 0.0
    for correction in corrections:
        total += correction.delta.value
        variance += correction.delta.u**2 + 2 * correction.shared
        fourth += correction.delta.fourth + correction.few
    return of_variance(total, variance, fourth)


def parts_of(corrections: Iterable[Correction]) -> tuple[Part, ...]:
    """Return the parts of a figure's uncertainty, largest first, merged by source."""
    found: dict[UncertaintySource, float] = {}
    for correction in corrections:
        for part in correction.parts or (Part(correction.of, correction.delta.u),):
            found[part.of] = found.get(part.of, 0.0) + part.u**2
        if correction.shared:
            found[correction.of] = found.get(correction.of, 0.0) + 2 * correction.shared
    parts = [Part(of, variance**0.5) for of, variance in found.items() if variance > 1e-12]
    return tuple(sorted(parts, key=lambda part: -part.u))
