"""Head gaskets and base shims: those the engine will run with, and those used in a mock-up."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.quantity.fields import Mm, Text, Words
from mockup.quantity.shown import mm_range
from mockup.quantity.value import MM_PER_INCH, MM_PER_THOU, Value, rectangular

STATED_THICKNESS_U_MM = rectangular(0.001 * MM_PER_INCH)
"""Accuracy of a compressed thickness from its maker or a micrometer, +-0.001 in: common practice, no source."""
SNUGGED_THICKNESS_U_MM = 0.037
"""A new gasket that was only snugged is near its free thickness within this: common practice, no source."""
THICKEST_MM = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FinalGasket:
    """The gasket the engine will run with: thickness and bore [mm], None if not stated.

    Thickness 0 is no gasket, metal to metal, as separate barrels may run. ``known_to_mm``: accuracy of its thickness,
    +- [mm], 0 for the usual. Raises FaultsError for a thickness other than 0 outside 0.05 to 6 mm, or a bore outside 20
    to 320.
    """

    name: Annotated[str, Text(60)] = ""
    compressed_mm: Mm
    bore_mm: Mm | None = None
    known_to_mm: Mm = 0.0

    def __post_init__(self) -> None:
        found = []
        if self.compressed_mm != 0 and not 0.05 <= self.compressed_mm <= THICKEST_MM:
            found.append(Fault("compressed_mm", f"A head gasket is {mm_range(0.05, 6)} thick."))
        if self.bore_mm is not None and not 20 <= self.bore_mm <= 320:
            found.append(Fault("bore_mm", "A gasket bore of 20 to 320 mm. Is the unit right?"))
        if not 0 <= self.known_to_mm <= 1:
            found.append(Fault("known_to_mm", f"Known to within {mm_range(0, 1)}."))
        refuse(found)

    @property
    def thickness(self) -> Value:
        """Compressed thickness with its u [mm]."""
        if not self.compressed_mm:
            return Value(0.0)
        return Value(self.compressed_mm, rectangular(self.known_to_mm) if self.known_to_mm else STATED_THICKNESS_U_MM)


class GasketState(StrEnum):
    """Which gasket was between head and deck in a mock-up."""

    FINAL = "final"
    SAME_USED = "same, used"
    SNUGGED = "snugged"
    NONE = "none"
    COMPRESSED = "compressed"
    UNKNOWN = "unknown"


THINNEST_USUAL_MM, THICKEST_USUAL_MM = 20 * MM_PER_THOU, 75 * MM_PER_THOU
"""An unknown head gasket, compressed, lies between these: common practice, no source."""
UNKNOWN_GASKET = Value(
    (THINNEST_USUAL_MM + THICKEST_USUAL_MM) / 2, rectangular((THICKEST_USUAL_MM - THINNEST_USUAL_MM) / 2)
)
SQUEEZED_MM = (5 * MM_PER_THOU, 5 * MM_PER_THOU)
"""How much a new gasket is compressed when torqued, if not stated, and how accurately: common practice, no source."""
USED_MM = 2 * MM_PER_THOU
"""How far a used gasket may differ from a new one of its kind, compressed: common practice, no source."""


MOST_SHIMS_MM = 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class BaseShims:
    """The shims of a separate barrel: together ``total_mm`` [mm], 0 to 10; ``words`` names them.

    ``cylinder`` None means every barrel without shims of its own. Raises FaultsError.
    """

    total_mm: Mm
    words: Words = ""
    cylinder: int | None = None

    def __post_init__(self) -> None:
        refuse([] if 0 <= self.total_mm <= MOST_SHIMS_MM else [Fault("total_mm", "Base shims of 0 to 10 mm.")])


def shims_under(chosen: Iterable[BaseShims], cylinder: int) -> BaseShims | None:
    """Return the shims under one barrel: its own, else those for all, else None."""
    by_cylinder = {shims.cylinder: shims for shims in chosen}
    return by_cylinder.get(cylinder) or by_cylinder.get(None)
