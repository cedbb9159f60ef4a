"""Which piston in which bore: the least spread between the crowns of a bank.

A deck d is what the bore with its rod and throw gives, less the piston: b = d + h with the compression height h. The
tallest piston in the bore that gives most, and so on down, has the smallest greatest deck and the greatest smallest one
at once, so the least spread (an exchange of any two can only widen it). Checked against every order in
tests/core/test_piston_places.py.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.quantity.shown import mm_range

LEAST_GAIN_MM = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class PistonPlaces:
    """Where each piston goes, and the spread of the decks before and after.

    ``moves``: bore number to the present cylinder of the piston that goes there. ``decks_mm``: the decks afterwards, by
    bore [mm], positive in the hole. ``before_mm``, ``after_mm``: the largest spread of a bank [mm].
    """

    moves: Mapping[int, int]
    decks_mm: Mapping[int, float]
    before_mm: float
    after_mm: float

    @property
    def swaps(self) -> Mapping[int, int]:
        """The bores that get another piston, each with its present cylinder."""
        return {bore: piston for bore, piston in self.moves.items() if bore != piston}


def least_spread(
    decks_mm: Mapping[int, float], heights_mm: Mapping[int, float], banks: Sequence[Sequence[int]]
) -> PistonPlaces:
    """Return the places of the pistons with the least spread in every bank.

    ``decks_mm``, ``heights_mm``: by cylinder number [mm]. A piston stays in its bank, where its relief is on the right
    side, and where nothing is gained in its bore. Raises FaultsError for a height of a cylinder without a deck, or
    outside 5 to 200 mm.
    """
    unread = sorted(set(heights_mm) - set(decks_mm))
    wrong = [one for one, height in heights_mm.items() if not 5 <= height <= 200]
    refuse(
        [
            *(Fault("heights", f"The deck of cylinder {cylinder} is not read.") for cylinder in unread),
            *(Fault("heights", f"Cylinder {one}: a compression height of {mm_range(5, 200)}.") for one in wrong),
        ]
    )
    moves: dict[int, int] = {}
    for bank in banks:
        here = [cylinder for cylinder in bank if cylinder in heights_mm]
        bores = sorted(here, key=lambda one: decks_mm[one] + heights_mm[one], reverse=True)
        pistons = sorted(here, key=lambda one: heights_mm[one], reverse=True)
        best = dict(zip(bores, pistons, strict=True))
        stay = {cylinder: cylinder for cylinder in here}
        gained = _spread(decks_mm, heights_mm, stay) - _spread(decks_mm, heights_mm, best)
        moves |= best if gained > LEAST_GAIN_MM else stay
    stay = {cylinder: cylinder for cylinder in moves}
    moves = dict(sorted(moves.items()))
    return PistonPlaces(
        moves=moves,
        decks_mm=_decks(decks_mm, heights_mm, moves),
        before_mm=max((_spread(decks_mm, heights_mm, _of(bank, stay)) for bank in banks), default=0.0),
        after_mm=max((_spread(decks_mm, heights_mm, _of(bank, moves)) for bank in banks), default=0.0),
    )


def _of(bank: Sequence[int], moves: Mapping[int, int]) -> dict[int, int]:
    return {bore: moves[bore] for bore in bank if bore in moves}


def _decks(decks: Mapping[int, float], heights: Mapping[int, float], moves: Mapping[int, int]) -> dict[int, float]:
    return {bore: decks[bore] + heights[bore] - heights[piston] for bore, piston in moves.items()}


def _spread(decks: Mapping[int, float], heights: Mapping[int, float], moves: Mapping[int, int]) -> float:
    found = _decks(decks, heights, moves).values()
    return max(found) - min(found) if found else 0.0
