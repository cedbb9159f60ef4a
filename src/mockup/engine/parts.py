"""How much the parts of one engine differ: relief depth, seat depth, tip height."""

from dataclasses import dataclass

from mockup.base.faults import out_of_range, refuse
from mockup.quantity.fields import Mm, Words

PART_U_MM = 0.05
"""The usual scatter, a standard deviation: common practice, no source."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PartsDiffer:
    """The scatter of parts chosen for a build [mm], 0.005 to 0.5, and its source.

    Raises FaultsError.
    """

    u_mm: Mm
    said: Words = ""

    def __post_init__(self) -> None:
        refuse(out_of_range(self, {"u_mm": (0.005, 0.5)}))
