"""What pushrods are chosen by: the lifter, and the window of preload or lash."""

from dataclasses import dataclass, replace
from enum import StrEnum

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.quantity.fields import Mm
from mockup.quantity.shown import mm_range
from mockup.quantity.value import MM_PER_INCH

USUAL_PITCH_MM = 0.050 * MM_PER_INCH
WINDOW_MM = 0.020 * MM_PER_INCH
"""The window around a preload given only as a target: common practice, no source."""
LENGTHS_MM = (40.0, 500.0)


class Lifter(StrEnum):
    """The lifter under the pushrod in the running engine."""

    HYDRAULIC = "hydraulic"
    SOLID = "solid"


@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodChoice:
    """What the pushrods are chosen by.

    ``low_mm``, ``high_mm``: window of preload (hydraulic) or of lash at the valve (solid) [mm], 0 to 6; ``aim_mm`` the
    target in it. ``step_mm``: step between the maker's lengths [mm], 0 for none. ``lean_deg``: lean of a pushrod from
    the bore [deg]. ``chosen_mm``: the length bought [mm], None before.
    """

    lifter: Lifter = Lifter.HYDRAULIC
    low_mm: Mm
    high_mm: Mm
    aim_mm: Mm
    step_mm: Mm = USUAL_PITCH_MM
    lean_deg: float = 0.0
    chosen_mm: Mm | None = None

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.low_mm <= self.aim_mm <= self.high_mm <= 6:
            found.append(Fault("aim_mm", f"Least, aim and most go up in that order, from {mm_range(0, 6)}."))
        if not 0 <= self.step_mm <= 30:
            found.append(Fault("step_mm", f"A step of {mm_range(0, 30)}."))
        if not 0 <= self.lean_deg <= 40:
            found.append(Fault("lean_deg", "A lean of 0 to 40 degrees."))
        low, high = LENGTHS_MM
        if self.chosen_mm is not None and not low <= self.chosen_mm <= high:
            found.append(Fault("chosen_mm", f"A pushrod of {mm_range(low, high)}."))
        refuse(found)

    def target_mm(self, zero_mm: float, ratio: float) -> float:
        """Return the target length [mm]: zero-lash plus preload, or minus the lash at the pushrod."""
        return zero_mm + self.aim_mm if self.lifter is Lifter.HYDRAULIC else zero_mm - self.aim_mm / ratio

    def left_mm(self, length_mm: float, zero_mm: float, ratio: float) -> float:
        """Return the preload, or lash at the valve, that a length gives [mm]; may be negative."""
        return length_mm - zero_mm if self.lifter is Lifter.HYDRAULIC else (zero_mm - length_mm) * ratio


def longer(choice: PushrodChoice | None, by_mm: float) -> PushrodChoice:
    """Return the choice with pushrods longer by ``by_mm`` [mm].

    Raises FaultsError where none were chosen.
    """
    if choice is None or choice.chosen_mm is None:
        raise FaultsError([Fault("pushrods", "No pushrods are chosen yet: choose their length first.")])
    return replace(choice, chosen_mm=round(choice.chosen_mm + by_mm, 6))
