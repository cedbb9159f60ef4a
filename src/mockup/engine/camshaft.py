"""A cam that was in the engine, or could go in: card, measured lobes, position.

Crank degrees about overlap TDC; the intake centreline is given ATDC and the exhaust's BTDC, as cards print them.
"""

from dataclasses import dataclass
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.valves import Side
from mockup.quantity.fields import Most, Text


@dataclass(frozen=True, slots=True, kw_only=True)
class Camshaft:
    """A cam by its card, by measured lobes, or both; a measured lobe overrides the card.

    ``icl_deg`` ATDC and ``ecl_deg`` BTDC, 70 to 150 [deg]: the centreline of a measured lobe that has no card. Raises
    FaultsError where a side has neither card nor table, or a table without a centreline.
    """

    name: Annotated[str, Text(60)] = ""
    card: CamCard | None = None
    tables: Annotated[tuple[LobeTable, ...], Most(2)] = ()
    icl_deg: float | None = None
    ecl_deg: float | None = None

    def __post_init__(self) -> None:
        found = []
        for name, at in (("icl_deg", self.icl_deg), ("ecl_deg", self.ecl_deg)):
            if at is not None and not 70 <= at <= 150:
                found.append(Fault(name, "A centreline of 70 to 150 crank degrees."))
        if self.card is None and not self.tables:
            found.append(Fault("card", "Give its card, or a measured lobe."))
        if len({table.side for table in self.tables}) < len(self.tables):
            found.append(Fault("tables", "One measured lobe a side."))
        refuse(found)

    @classmethod
    def of_an_engine(
        cls, card: CamCard | None, tables: tuple[LobeTable, ...], put_in: "Camshaft | None" = None
    ) -> "Camshaft | None":
        """Return the engine's cam from what is known of it, or None.

        ``put_in``: the cam as it was put in.
        """
        if card is None and not tables:
            return None
        # A card entered since then carries its own centreline.
        own = put_in if put_in and put_in.card == card else None
        return cls(
            name=put_in.name if put_in else "",
            card=card,
            tables=tables,
            icl_deg=own.icl_deg if own else None,
            ecl_deg=own.ecl_deg if own else None,
        )

    def table(self, side: Side) -> LobeTable | None:
        """Return the measured lobe of one side, or None."""
        return next((table for table in self.tables if table.side is side), None)

    def stands_deg(self, side: Side) -> float | None:
        """Return a side's centreline about overlap TDC [deg]: its own before the card's, or None."""
        own = self.icl_deg if side is Side.INTAKE else self.ecl_deg
        if own is not None:
            return own if side is Side.INTAKE else -own
        return self.card.centreline_deg(side) if self.card else None
