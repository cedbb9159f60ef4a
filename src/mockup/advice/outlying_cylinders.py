"""Cylinders far from the others, in crown height or volume.

Far enough off, a misreading is likelier than such an engine.

The bounds are common practice, no source.
"""

import statistics
from collections.abc import Iterator, Mapping

from mockup.fit.deck_figures import DeckFigure
from mockup.fit.volume_figures import VolumeFigure
from mockup.job import Job
from mockup.quantity.shown import format_both, format_deck
from mockup.readings.volumes import VolumePart
from mockup.report import Question

PROUD_MM = 0.09
"""A crown this far from its bank's median is asked about."""
SLIP_MM = 0.5
"""A crown further from its bank's median than this was probably misread."""
SIGN_MM = 0.04
"""A crown that mirrors its bank across the deck to within this has lost its sign."""
APART_CC = 1.5
"""A volume this far from the median of its kind is asked about."""
SLIP_CC = 4.0
"""Further off than this, a volume was probably misread."""

Decks = Mapping[int, DeckFigure]
Parts = Mapping[VolumePart, Mapping[int, VolumeFigure]]


def cylinders_apart(job: Job, deck: Decks, parts: Parts) -> Iterator[Question]:
    """Yield a question for every crown and every volume far from the others."""
    for bank in job.engine.banks if not job.engine.separate_barrels else ():
        heights = {cylinder: deck[cylinder].clearance.value for cylinder in bank if cylinder in deck}
        for cylinder, height in heights.items() if len(heights) > 2 else ():
            usual = statistics.median(one for other, one in heights.items() if other != cylinder)
            if abs(usual - height) > PROUD_MM and _is_the_odd_one(cylinder, heights):
                yield _crown_apart(job, deck[cylinder], cylinder, height, usual)
        if len(heights) == 2 and abs(heights[min(heights)] - heights[max(heights)]) > SLIP_MM:
            yield _pair_apart(job, heights)
    for part, figures in parts.items():
        yield from _volumes_apart(part, figures)


def _is_the_odd_one(cylinder: int, of: Mapping[int, float]) -> bool:
    """Return whether it is further from the median of all than the others are from their own."""
    middle = statistics.median(of.values())
    others = [one for other, one in of.items() if other != cylinder]
    return abs(of[cylinder] - middle) >= 0.5 * abs(of[cylinder] - statistics.median(others))


def _crown_apart(job: Job, figure: DeckFigure, cylinder: int, height: float, usual: float) -> Question:
    """Return a question about a crown higher or lower than its bank.

    It is a likely slip if it is far off or mirrored.
    """
    apart, way = format_both(abs(usual - height), job.unit), "prouder" if usual > height else "deeper"
    turned = height * usual < 0 and abs(height + usual) < SIGN_MM
    if turned:
        asked = f"It would fit as {format_deck(-height, job.unit)}: was its sign lost?"
    elif abs(usual - height) > SLIP_MM:
        asked = "Was it read at TDC, with the dial’s turns counted? Read it again."
    else:
        asked = "Its own piston and rod?"
    wrong = turned or abs(usual - height) > SLIP_MM
    return Question(
        f"The crown of cylinder {cylinder} is {apart} {way} than its bank. {asked}",
        figure.readings[-1].key if wrong else "",
        _judged_by(cylinder) if wrong else (),
    )


def _judged_by(cylinder: int) -> tuple[str, ...]:
    return f"Quench {cylinder}", f"Quench {cylinder} edge", f"Ratio {cylinder}"


def _pair_apart(job: Job, heights: Mapping[int, float]) -> Question:
    """Return a question about two crowns when either could be the wrong one."""
    one, two = sorted(heights)
    apart = format_both(abs(heights[one] - heights[two]), job.unit)
    return Question(
        f"The crowns of cylinders {one} and {two} differ by {apart}. Were both read at TDC, with the sign right?",
        against=(*_judged_by(one), *_judged_by(two)),
    )


def _volumes_apart(part: VolumePart, figures: Mapping[int, VolumeFigure]) -> Iterator[Question]:
    volumes = {cylinder: figure.volume.value for cylinder, figure in figures.items()}
    for cylinder, volume in volumes.items() if len(volumes) > 2 else ():
        others = [one for other, one in volumes.items() if other != cylinder]
        apart = volume - statistics.median(others)
        if abs(apart) <= APART_CC or not _is_the_odd_one(cylinder, volumes):
            continue
        wrong = abs(apart) > SLIP_CC
        asked = "A digit, a bubble, or a valve that leaked? Fill it again." if wrong else "Is it right?"
        by = f"{abs(apart):.1f} cc {'more' if apart > 0 else 'less'}"
        yield Question(
            f"The {part} volume of cylinder {cylinder} is {by} than the others’. {asked}",
            figures[cylinder].readings[-1].key,
            (f"Ratio {cylinder}",) if wrong else (),
        )
