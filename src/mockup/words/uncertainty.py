"""What the U of a figure is made of, largest part first, and what would halve it.

A part counts by its share of the variance (GUM, JCGM 100:2008, 5.1.2); each is shown times the figure's own coverage
factor, so that their root sum of squares is U.
"""

import math
from collections.abc import Sequence

from mockup.checks.check import Kind
from mockup.quantity.corrections import Part, UncertaintySource
from mockup.quantity.shown import format_expanded
from mockup.quantity.value import Unit, Value

LEAST_SHARE = 0.12
"""Parts smaller than this share of U are left out: together they would not change the figure shown."""

HALVED_BY = {
    UncertaintySource.INSTRUMENT: "a more accurate instrument",
    UncertaintySource.TILT: "the dial in line with the valve",
    UncertaintySource.GASKET: "the gaskets’ thickness measured, compressed",
    UncertaintySource.CURVE: "readings closer to the closest point",
    UncertaintySource.ANGLE: "a sweep about overlap TDC",
    UncertaintySource.LOBE: "the lobe measured, or readings about overlap TDC",
    UncertaintySource.TABLE: "the lobe measured with a finer indicator",
    UncertaintySource.TIMING: "the cam degreed",
    UncertaintySource.ROCKERS: "the lift measured at the valve",
    UncertaintySource.WHEEL: "TDC found with a positive stop",
    UncertaintySource.CRANK: "stroke and rod measured",
    UncertaintySource.CHANGES: "a reading of the engine as it is now",
    UncertaintySource.CLAY: "modelling clay in place of soft dough",
    UncertaintySource.DECK: "the decks read more often",
    UncertaintySource.SIDEWAYS: "a reading with the final gasket",
    UncertaintySource.PARTS: "a reading of this very valve",
    UncertaintySource.DIMENSIONS: "bore and stroke measured",
    UncertaintySource.CHAMBER: "the chamber filled more often",
    UncertaintySource.PISTON: "the piston filled down its bore",
    UncertaintySource.PUSHROD: "the pushrods measured",
}
MOST_TIMES = 30
INDICATOR = "an indicator in place of clay"


def made_of(parts: Sequence[Part], figure: Value, kind: Kind, unit: Unit) -> str:
    """Return ``U 4: repeatability 3, gasket 2``; empty where the figure is exact."""
    if not parts or figure.u <= 0:
        return ""
    factor = figure.expanded / figure.u
    large = [part for part in parts if part.u >= LEAST_SHARE * figure.u]
    shown = ", ".join(f"{part.of} {_amount(part.u * factor, kind, unit)}" for part in large)
    return f"U {_amount(figure.expanded, kind, unit)}: {shown}"


def _amount(expanded: float, kind: Kind, unit: Unit) -> str:
    return format_expanded(expanded, unit) if kind.is_length else f"{math.ceil(expanded * 100 - 1e-9) / 100:.2f}"


def halved_by(parts: Sequence[Part], *, of_clay: bool = False) -> str:
    """Return what would halve U: the fewest of its parts, largest first, that would have to go.

    ``of_clay``: read by slices; only those at the thinnest place repeat one another.
    """
    total = sum(part.u**2 for part in parts)
    if not total:
        return ""
    wanted, left, gone = total / 4, total, []
    for part in sorted(parts, key=lambda part: -part.u):
        if left <= wanted * (1 + 1e-9):
            break
        left -= part.u**2
        gone.append(part)
    return " and ".join(_way(part, wanted - left, of_clay=of_clay) for part in gone)


def _way(part: Part, room: float, *, of_clay: bool) -> str:
    """Return one way to reduce a part; ``room``: how much of its variance may remain."""
    if part.of is not UncertaintySource.REPEATABILITY:
        return HALVED_BY[part.of]
    times = math.ceil(part.u**2 / room) if room > part.u**2 / MOST_TIMES else MOST_TIMES
    if of_clay:
        # The thinnest place governs, so slices cut elsewhere add nothing.
        often = "twice" if times == 2 else f"about {times} times as often"
        return f"the thinnest place measured {often}, by the same name each time" if times < MOST_TIMES else INDICATOR
    if times == 2:
        return "twice the readings"
    return f"about {times} times the readings" if times < MOST_TIMES else "many more readings"


def certainty_lines(
    parts: Sequence[Part], figure: Value | None, kind: Kind, unit: Unit, *, of_clay: bool = False
) -> list[str]:
    """Return both sentences about the U of a figure, without empty ones."""
    if figure is None:
        return []
    said = made_of(parts, figure, kind, unit)
    half = halved_by(parts, of_clay=of_clay)
    return [f"{said}."] * bool(said) + [f"Half of it would take {half}."] * bool(said and half)
