"""Preload, or lash at the valve, that the pushrods chosen give every valve that was tried."""

from mockup.checks.check import Finding
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import Value, rectangular
from mockup.readings.pushrods import PushrodFigure

LENGTH_U_MM = rectangular(0.13)
"""How truly a bought pushrod has its length, +-0.005 in: common practice, no source."""


def pushrod_finding(figure: PushrodFigure, choice: PushrodChoice, chosen_mm: float, ratio: float) -> Finding:
    """What ``chosen_mm`` [mm] gives one valve: preload, or with solid lifters the lash at it [mm]."""
    sign, factor = (1.0, 1.0) if choice.lifter is Lifter.HYDRAULIC else (-1.0, ratio)
    ladder = (
        Rung("pushrod chosen", Value(sign * factor * chosen_mm, factor * LENGTH_U_MM), Doubt.PUSHROD),
        *(Rung(rung.text, rung.delta.scaled(-sign * factor), rung.of) for rung in figure.ladder),
    )
    return Finding(
        figure=running_figure(ladder),
        method=f"{'preload' if choice.lifter is Lifter.HYDRAULIC else 'lash at the valve'}, {choice.lifter} lifters",
        ladder=ladder,
        evidence=tuple(reading.key for reading in figure.readings),
        carried=figure.carried,
        read_again=bool(figure.carried),
    )
