"""Which compressed thickness to order to keep every quench inside its window.

Quench q = d + g, so that g = q - d; U counts against both ends (maths: docs/how-it-computes.md, "Deck and quench").
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.engine.gasket import STATED_THICKNESS_U_MM
from mockup.fit.known_decks import KnownDeck, known_words
from mockup.quantity.shown import bench_text, format_bench
from mockup.quantity.value import Unit, Value
from mockup.report import Report


@dataclass(frozen=True, slots=True, kw_only=True)
class GasketFor:
    """One cylinder: the gasket for the target quench with U [mm], and its range."""

    cylinder: int
    wanted: Value
    thinnest_mm: float
    thickest_mm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GasketToOrder:
    """The thinnest and thickest gasket that keep every cylinder inside [mm], U counted.

    ``thinnest_for``, ``thickest_for``: the cylinders that set them, by number. If the thinnest is thicker than the
    thickest, no single gasket serves, because of those two. An end without a limit is 0 or infinite. ``decks``: those
    known, of ``cylinders``, some by clay on the pads alone. ``each``: the same for every cylinder alone, for a quench
    of ``target_mm`` [mm]; ``window_mm``: the allowed window, None where open [mm].
    """

    thinnest_mm: float
    thickest_mm: float
    thinnest_for: int
    thickest_for: int
    decks: Mapping[int, KnownDeck]
    cylinders: int
    target_mm: float
    window_mm: tuple[float | None, float | None]
    each: tuple[GasketFor, ...]

    @property
    def serves(self) -> bool:
        """Whether one gasket serves them all."""
        return self.thinnest_mm <= self.thickest_mm

    @property
    def rests_on(self) -> str:
        """How many decks are known, and by what; empty where all were read."""
        every = len(self.decks) == self.cylinders and not any(deck.by_clay for deck in self.decks.values())
        return "" if every else f"By {known_words(self.decks, self.cylinders)}."

    @property
    def target_is_outside(self) -> bool:
        """Whether the target quench is outside the window."""
        low, high = self.window_mm
        slack = 1e-6
        return (low is not None and self.target_mm < low - slack) or (
            high is not None and self.target_mm > high + slack
        )

    @property
    def middle_mm(self) -> float:
        """The gasket with most room to both ends [mm]."""
        return (self.thinnest_mm + self.thickest_mm) / 2


def gasket_to_order(report: Report, target_mm: float | None = None) -> GasketToOrder | None:
    """Return the gasket to order from the decks known; None without a deck or a quench limit.

    ``target_mm``: the target quench of every cylinder [mm]; by default the middle of the window.
    """
    effective = report.job.limits.effective
    low, high = effective.get(QUENCH_LOW_LIMIT), effective.get(QUENCH_HIGH_LIMIT)
    decks = report.context.known_decks
    if not decks or (low is None and high is None):
        return None
    least, most = {}, {}
    ends = [end for end in (low, high) if end is not None]
    target = sum(ends) / len(ends) if target_mm is None else target_mm
    each = []
    floors = {check.cylinder: check.floor or 0.0 for check in report.of_kind(QUENCH_CHECK)}
    for cylinder, known in decks.items():
        deck = known.clearance
        expanded = (deck + Value(0.0, STATED_THICKNESS_U_MM)).expanded
        # Even if the limits allow it, order nothing that growth and stretch would use up.
        metal = max(floors.get(cylinder, 0.0), low if low is not None else 0.0)
        least[cylinder] = metal - deck.value + expanded
        most[cylinder] = math.inf if high is None else high - deck.value - expanded
        wanted = Value(target - deck.value, deck.u, deck.freedom)
        each.append(
            GasketFor(
                cylinder=cylinder,
                wanted=wanted,
                thinnest_mm=max(least[cylinder], 0.0),
                thickest_mm=most[cylinder],
            )
        )
    thinnest, thickest = max(least, key=lambda c: least[c]), min(most, key=lambda c: most[c])
    return GasketToOrder(
        thinnest_mm=max(least[thinnest], 0.0),
        thickest_mm=most[thickest],
        thinnest_for=thinnest,
        thickest_for=thickest,
        decks=decks,
        cylinders=report.job.engine.cylinders,
        target_mm=target,
        window_mm=(low, high),
        each=tuple(each),
    )


def order_words(order: GasketToOrder | None, unit: Unit) -> str:
    """Return which gasket to order, in a sentence; empty where it is unknown."""
    if order is None:
        return ""
    of = f" {order.rests_on}" if order.rests_on else ""
    if not order.serves:
        return (
            f"No one gasket keeps all inside: number {order.thinnest_for} needs {bench_text(order.thinnest_mm, unit)} "
            f"at least, number {order.thickest_for} {bench_text(order.thickest_mm, unit)} at most.{of}"
        )
    if math.isinf(order.thickest_mm):
        return f"Gasket to order: {bench_text(order.thinnest_mm, unit)} compressed or thicker.{of}"
    middle = bench_text(order.middle_mm, unit)
    ends = f"{format_bench(order.thinnest_mm, unit)} to {bench_text(order.thickest_mm, unit)}"
    return f"Gasket to order: {middle} compressed; {ends} keeps every cylinder inside, U counted.{of}"
