"""Quench: flat of the crown to flat of the head at TDC, deck clearance plus compressed gasket, cold."""

from mockup.checks.check import Finding, Rung, running_figure
from mockup.engine.gasket import FinalGasket
from mockup.readings.deck import DeckFigure

CONTACT = "The crown stands further out than the gasket is thick: it would touch the head."


def quench_finding(deck: DeckFigure, final: FinalGasket) -> Finding:
    """Cold quench of one cylinder: d + g [mm]."""
    count = len(deck.readings)
    way = "crown above the deck" if deck.clearance.value < 0 else "crown below the deck"
    ladder = (
        Rung(way if count == 1 else f"{way}, mean of {count}", deck.clearance),
        Rung("final gasket, compressed", final.thickness),
    )
    figure = running_figure(ladder)
    return Finding(
        figure=figure,
        method=deck.instrument.name,
        ladder=ladder,
        evidence=tuple(reading.key for reading in deck.readings),
        cautions=(CONTACT,) if figure.value <= 0 else (),
    )
