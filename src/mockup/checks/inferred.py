"""What one cylinder's clearance and both decks tell of an unread one: never measured.

C_j = C_i + k (d_j - d_i), u^2 = u_i^2 + 2 u_part^2 + 2 (k u_deck)^2 (plane geometry; parts scatter by common practice).
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from mockup.checks.check import Check, Finding
from mockup.engine.valves import ValveRow
from mockup.fit.deck_figures import DeckFigure
from mockup.limits.judge import Bound
from mockup.quantity.corrections import Correction, UncertaintySource, running_figure
from mockup.quantity.value import Value


def with_inferred(
    checks: Sequence[Check], row: ValveRow, deck: Mapping[int, DeckFigure], part_mm: float
) -> list[Check]:
    """Return one side's checks, each unread one with what the best-known valve tells of it.

    ``part_mm``: the scatter of parts, a standard deviation [mm].
    """
    measured = [
        check
        for check in checks
        if check.figure and check.governing and check.governing.bound is Bound.EXACT and check.cylinder in deck
    ]
    if not measured:
        return list(checks)
    return [
        check
        if check.governing or check.cylinder not in deck
        else replace(check, inferred=_infer(check, measured, row, deck, part_mm))
        for check in checks
    ]


def _infer(
    check: Check, measured: Sequence[Check], row: ValveRow, deck: Mapping[int, DeckFigure], part_mm: float
) -> Finding:
    # Prefer the same valve of another cylinder: its relief and seat are cut to the same print.
    alike = [one for one in measured if one.number == check.number] or measured
    source = min(alike, key=lambda one: one.figure.u if one.figure else 0.0)
    assert source.figure is not None
    k = row.axial_factor
    here, there = deck[check.cylinder].clearance, deck[source.cylinder].clearance
    decks = (here + there.scaled(-1)).scaled(k)
    corrections = (
        Correction(
            f"{source.label} as it will run", source.figure, parts=source.governing.parts if source.governing else ()
        ),
        Correction(f"deck of {check.cylinder} against deck of {source.cylinder}", decks, UncertaintySource.DECK),
        Correction("parts that differ", Value(0.0, math.sqrt(2) * part_mm), UncertaintySource.PARTS),
    )
    return Finding(
        figure=running_figure(corrections),
        method=f"inferred from {source.label}",
        corrections=corrections,
        evidence=source.governing.evidence if source.governing else (),
    )
