"""Quench: flat of the crown to flat of the head at TDC, deck clearance plus compressed gasket, cold."""

from dataclasses import replace

from mockup.checks.check import Finding
from mockup.engine.gasket import FinalGasket
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.readings.deck import DeckFigure

CONTACT = "The crown stands further out than the gasket is thick: it would touch the head."
CRANK_MOVED = "Nobody watched the crank while the piston was pushed: it may have moved."


def quench_finding(deck: DeckFigure, final: FinalGasket) -> Finding:
    """Cold quench of one cylinder over the middle of its crown: d + g [mm]."""
    return _finding(deck, (*deck.ladder, Rung("final gasket, compressed", final.thickness, Doubt.GASKET)))


def edge_finding(deck: DeckFigure, final: FinalGasket) -> Finding | None:
    """Cold quench at the highest edge that was read, rocked as it was; None where no edge was."""
    if deck.edge_as_read is None:
        return None
    ladder = (
        replace(deck.edge_as_read, text="highest edge of the crown, rocked as it was"),
        *deck.ladder[1:],
        Rung("final gasket, compressed", final.thickness, Doubt.GASKET),
    )
    return _finding(deck, ladder)


def _finding(deck: DeckFigure, ladder: tuple[Rung, ...]) -> Finding:
    figure = running_figure(ladder)
    cautions = [CONTACT] if figure.value <= 0 else []
    cautions += [] if deck.crank_held else [CRANK_MOVED]
    return Finding(
        figure=figure,
        method=deck.instrument.name,
        ladder=ladder,
        evidence=tuple(reading.key for reading in deck.readings),
        cautions=tuple(cautions),
        carried=deck.carried,
        read_again=bool(deck.carried),
    )
