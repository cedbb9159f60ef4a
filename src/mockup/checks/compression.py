"""Compression ratio of a cylinder, with its uncertainty propagated from every input.

Source: CR = (V_swept + V_c) / V_c with V_c the sum of chamber, gasket, deck and piston volumes; any
engine text, for instance Heywood, Internal Combustion Engine Fundamentals, ch. 2. First-order propagation
with correlations kept (the bore is in several terms): the uncertainties package, after GUM 5.1.
"""

from dataclasses import dataclass

from uncertainties import ufloat
from uncertainties.core import AffineScalarFunc

from mockup.checks.check import Finding
from mockup.engine.block import DIMENSION_U_MM, Engine, cylinder_volume
from mockup.engine.gasket import FinalGasket
from mockup.quantity.ladder import Doubt, Part, Rung
from mockup.quantity.value import Value, of_variance
from mockup.readings.deck import DeckFigure
from mockup.readings.volumes import Known, VolumeFigure


@dataclass(frozen=True, slots=True)
class Volumes:
    """The volumes of one cylinder at TDC [cm3], each with its standard uncertainty, and the swept volume.

    ``piston`` is positive where it adds room (dish).
    """

    chamber: Value
    gasket: Value
    deck: Value
    piston: Value
    swept: Value

    @property
    def clearance_cc(self) -> float:
        """All of the volume above the crown at TDC [cm3]."""
        return self.chamber.value + self.gasket.value + self.deck.value + self.piston.value


_NO_PARTS: tuple[Part, ...] = ()


def _plain(number: AffineScalarFunc) -> Value:
    return Value(number.nominal_value, number.std_dev)


def ratio_finding(
    engine: Engine, deck: DeckFigure, final: FinalGasket, chamber: VolumeFigure, piston: VolumeFigure
) -> tuple[Finding, Volumes]:
    """Compression ratio of one cylinder [1], and the volumes it is made of.

    The figure is None, with the reason as a caution, where the volumes leave no room above the crown.
    """
    bore = ufloat(engine.bore_mm, engine.u_of("bore_mm"), Doubt.DIMENSIONS)
    swept = cylinder_volume(bore, ufloat(engine.stroke_mm, engine.u_of("stroke_mm"), Doubt.DIMENSIONS))
    gasket = cylinder_volume(
        ufloat(final.bore_mm, DIMENSION_U_MM, Doubt.GASKET),
        ufloat(final.compressed_mm, final.thickness.u, Doubt.GASKET),
    )
    above = cylinder_volume(bore, ufloat(deck.clearance.value, deck.clearance.u, Doubt.DECK))
    own = [
        ufloat(figure.volume.value, figure.volume.u, of)
        for figure, of in ((chamber, Doubt.CHAMBER), (piston, Doubt.PISTON))
    ]
    clearance = own[0] + gasket + above + own[1]
    volumes = Volumes(chamber.volume, _plain(gasket), _plain(above), piston.volume, _plain(swept))
    cautions = _cautions(engine, deck, final, piston)
    if volumes.clearance_cc <= 0:
        figure, parts = None, _NO_PARTS
        cautions += ("The volumes leave no room above the crown. Check the dome and the chamber.",)
    else:
        ratio = (swept + clearance) / clearance
        parts = _parts(ratio)
        # Of all volumes only the deck's comes from few readings.
        few = sum(part.u**4 / deck.clearance.freedom for part in parts if part.of is Doubt.DECK)
        figure = of_variance(ratio.nominal_value, ratio.std_dev**2, few)
    return _finding(figure, parts, deck, chamber, piston, cautions), volumes


def _parts(ratio: AffineScalarFunc) -> tuple[Part, ...]:
    """What the u of a ratio comes of: the variables it was made of, by what they were tagged."""
    found: dict[Doubt, float] = {}
    for variable, u in ratio.error_components().items():
        of = Doubt(variable.tag)
        found[of] = found.get(of, 0.0) + u * u
    return tuple(Part(of, variance**0.5) for of, variance in found.items())


def _finding(
    figure: Value | None,
    parts: tuple[Part, ...],
    deck: DeckFigure,
    chamber: VolumeFigure,
    piston: VolumeFigure,
    cautions: tuple[str, ...],
) -> Finding:
    stated = [name for name, part in (("chamber", chamber), ("piston", piston)) if part.known is Known.STATED]
    method = f"{' and '.join(stated)} stated, not measured" if stated else "volumes measured"
    keys = [reading.key for part in (deck, chamber, piston) for reading in part.readings]
    ladder = (Rung("from the volumes", figure, parts=parts),) if figure else ()
    carried = (*deck.carried, *chamber.carried, *piston.carried)
    return Finding(
        figure=figure,
        method=method,
        ladder=ladder,
        evidence=tuple(keys),
        cautions=cautions,
        carried=carried,
        read_again=bool(carried),
    )


def _cautions(engine: Engine, deck: DeckFigure, final: FinalGasket, piston: VolumeFigure) -> tuple[str, ...]:
    found = []
    if deck.clearance.value < 0 and final.bore_mm < engine.bore_mm:
        found.append("The crown stands out and the gasket bore is smaller than the bore: it would touch the gasket.")
    if piston.known is Known.STATED:
        found.append("Piston volume stated, not measured: a burette down the hole settles it.")
    return tuple(found)
