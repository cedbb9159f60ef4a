"""What a person marks in a picture of cut clay, and types beside it."""

from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.quantity.fields import Mm
from mockup.quantity.shown import mm_range

LONGEST_PX = 20_000.0

Point = tuple[float, float]
"""A place of a picture: x, y [px]."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Marks:
    """The marks in a picture: x, y from the middle of its top left pixel [px].

    ``reference``: a point near each of two edges, or near each of four corners in order. ``length_mm``: between the two
    edges, or along the first side; ``across_mm``: along the second side, 0 for a square. ``u_mm``: standard uncertainty
    of both [mm]. ``ends``: of the middle of the slice. ``reach_px``: how far on either side its edges are searched
    [px]. Raises FaultsError for marks that allow no measurement.
    """

    reference: tuple[Point, ...]
    ends: tuple[Point, Point]
    reach_px: float
    length_mm: Mm
    across_mm: Mm = 0.0
    u_mm: Mm = 0.01

    def __post_init__(self) -> None:
        found = []
        if len(self.reference) not in (2, 4):
            found.append(Fault("reference", "Two edges, or four corners."))
        if not 0.2 <= self.length_mm <= 200:
            found.append(Fault("length_mm", f"The reference is {mm_range(0.2, 200)} long."))
        if self.across_mm and not 0.2 <= self.across_mm <= 200:
            found.append(Fault("across_mm", f"The reference is {mm_range(0.2, 200)} across; 0 for a square."))
        if not 0 < self.u_mm <= 1:
            found.append(Fault("u_mm", "From over 0 to 1 mm."))
        if not self.reach_px >= 8:
            found.append(Fault("reach_px", "Look at least 8 pixels to either side of the middle."))
        if any(not abs(one) <= LONGEST_PX for point in (*self.reference, *self.ends) for one in point):
            found.append(Fault("reference", "A mark is far outside of any picture."))
        refuse(found)
