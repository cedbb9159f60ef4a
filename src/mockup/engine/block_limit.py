"""What may be taken off a block in its life, as entered from the maker's figures."""

from dataclasses import dataclass

from mockup.base.faults import out_of_range, refuse
from mockup.quantity.fields import Mm, Words


@dataclass(frozen=True, slots=True, kw_only=True)
class BlockLimit:
    """The most that may be cut off the deck in all [mm], 0.01 to 10, and its source.

    Raises FaultsError.
    """

    deck_cut_mm: Mm
    said: Words = ""

    def __post_init__(self) -> None:
        refuse(out_of_range(self, {"deck_cut_mm": (0.01, 10.0)}))
