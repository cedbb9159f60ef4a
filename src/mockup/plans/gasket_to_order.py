"""Which compressed thickness to order: the gaskets that keep every cylinder's quench inside the sheet's window.

Quench q = d + g, so that g = q - d; U counts against both ends (maths: docs/how-it-computes.md, "Deck and quench").
"""

import math
from dataclasses import dataclass

from mockup.engine.gasket import STATED_THICKNESS_U_MM
from mockup.limits.margins import LimitName
from mockup.quantity.value import Value
from mockup.report import Report


@dataclass(frozen=True, slots=True, kw_only=True)
class GasketFor:
    """One cylinder: the gasket that gives it the wanted quench with its U [mm], and between what it stays inside."""

    cylinder: int
    wanted: Value
    thinnest_mm: float
    thickest_mm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class GasketToOrder:
    """The thinnest and thickest gasket that keep every cylinder inside [mm], U counted.

    ``thinnest_for``, ``thickest_for``: the cylinders that set them, by number. Where the thinnest is thicker than the
    thickest, no one gasket serves, and those two stop it. An end without a limit is 0 or infinite. ``read`` of
    ``cylinders`` decks are known. ``each``: the same of every cylinder by itself, for a quench of ``target_mm`` [mm].
    """

    thinnest_mm: float
    thickest_mm: float
    thinnest_for: int
    thickest_for: int
    read: int
    cylinders: int
    target_mm: float
    each: tuple[GasketFor, ...]

    @property
    def serves(self) -> bool:
        """Whether one gasket serves them all."""
        return self.thinnest_mm <= self.thickest_mm

    @property
    def middle_mm(self) -> float:
        """The one that leaves most room to both ends [mm]."""
        return (self.thinnest_mm + self.thickest_mm) / 2


def gasket_to_order(report: Report, target_mm: float | None = None) -> GasketToOrder | None:
    """The gasket to order by the decks that are read; None without a deck, or where the sheet has no quench limit.

    ``target_mm``: the quench that is wanted of every cylinder [mm]; the middle of the window where nobody says it.
    """
    effective = report.job.sheet.effective
    low, high = effective.get(LimitName.QUENCH_LOW), effective.get(LimitName.QUENCH_HIGH)
    if not report.deck or (low is None and high is None):
        return None
    least, most = {}, {}
    ends = [end for end in (low, high) if end is not None]
    target = sum(ends) / len(ends) if target_mm is None else target_mm
    each = []
    for cylinder, figure in report.deck.items():
        deck = figure.clearance
        expanded = (deck + Value(0.0, STATED_THICKNESS_U_MM)).expanded
        least[cylinder] = 0.0 if low is None else low - deck.value + expanded
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
        read=len(report.deck),
        cylinders=report.job.engine.cylinders,
        target_mm=target,
        each=tuple(each),
    )
