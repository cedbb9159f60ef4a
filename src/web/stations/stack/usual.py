"""Usual gasket thicknesses, offered while no gasket of about this bore is on the shelf."""

from dataclasses import dataclass

from mockup.engine.gasket import FinalGasket
from mockup.quantity.shown import bench_text
from mockup.quantity.value import MM_PER_THOU, Unit

USUAL_MM = {
    Unit.INCH: tuple(thou * MM_PER_THOU for thou in (20, 27, 36, 40, 45, 51, 60, 75)),
    Unit.MILLIMETRE: (0.5, 0.7, 0.9, 1.0, 1.15, 1.3, 1.5, 1.9),
}
"""Compressed thicknesses that many makers sell: common practice, no source."""


@dataclass(frozen=True, slots=True)
class UsualGasket:
    """A thickness without a maker, in the place of a row of the shelf; its bore is not stated."""

    pk: str
    name: str
    compressed_mm: float

    def core(self) -> FinalGasket:
        """Return it as the gasket the engine will run with."""
        return FinalGasket(compressed_mm=self.compressed_mm)


def usual_gaskets(unit: Unit) -> list[UsualGasket]:
    """Return the usual thicknesses of a build's unit."""
    return [UsualGasket(f"usual-{mm:.4f}", f"usual, {bench_text(mm, unit)}", mm) for mm in USUAL_MM[unit]]
