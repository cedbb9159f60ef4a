"""Compression ratio of a cylinder, with its uncertainty propagated from every input.

Source: CR = (V_swept + V_c) / V_c with V_c the sum of chamber, gasket, deck and piston volumes; any
engine text, for instance Heywood, Internal Combustion Engine Fundamentals, ch. 2. First-order propagation (GUM 5.1)
by the slopes of that formula; the bore is in two of its terms, and counts once.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from mockup.base.stations import Station
from mockup.base.topics import Topic
from mockup.checks.check import Check, Finding, Kind
from mockup.context import EvaluationContext
from mockup.engine.block import DIMENSION_U_MM, Engine, cylinder_volume
from mockup.fit.engine_history import Sealing
from mockup.fit.known_decks import KnownDeck
from mockup.fit.volume_figures import VolumeFigure
from mockup.limits.limit_set import LimitName, LimitUnit
from mockup.quantity.corrections import Correction, Part, UncertaintySource
from mockup.quantity.shown import mm_text
from mockup.quantity.value import Value, of_variance, rectangular
from mockup.readings.volumes import Known, VolumePart

WIDER_MM = Value(1.0, rectangular(1.0))
"""How much wider a gasket's bore is than its cylinder's, 0 to 2 mm: common practice, no source."""
NO_GASKET_BORE = (
    f"The gasket’s bore is not stated: it counts as the cylinder’s and {mm_text(WIDER_MM.value)} more, give or take as "
    "much. Measure it and enter it with the gasket."
)


@dataclass(frozen=True, slots=True)
class Volumes:
    """The volumes of one cylinder at TDC [cm3], each with u, and the swept volume.

    ``piston`` is positive where it adds volume (dish).
    """

    chamber: Value
    gasket: Value
    deck: Value
    piston: Value
    swept: Value

    @property
    def clearance_cc(self) -> float:
        """The whole volume above the crown at TDC [cm3]."""
        return self.chamber.value + self.gasket.value + self.deck.value + self.piston.value


def volumes_of(context: EvaluationContext, cylinder: int) -> Volumes | None:
    """Return the volumes of one cylinder, or None where one of them is not known."""
    final, deck = context.final, context.known_decks.get(cylinder)
    chamber, piston = (context.parts[part].get(cylinder) for part in (VolumePart.CHAMBER, VolumePart.PISTON))
    if not (final and deck and chamber and piston) or _unsaid(context):
        return None
    engine, sizes = context.job.engine, context.job.engine.sizes
    per_mm = cylinder_volume(sizes.bore_mm, 1.0)
    twice = 2 * engine.u_of("bore_mm") / sizes.bore_mm
    above, swept = per_mm * deck.clearance.value, per_mm * sizes.stroke_mm
    sealed = sealed_bore(final, engine)
    gasket = cylinder_volume(sealed.value, final.compressed_mm)
    gasket_u = (gasket * 2 * sealed.u / sealed.value, cylinder_volume(sealed.value, final.thickness.u))
    return Volumes(
        chamber=chamber.volume,
        gasket=Value(gasket, _together(*gasket_u)),
        deck=Value(above, _together(above * twice, per_mm * deck.clearance.u)),
        piston=piston.volume,
        swept=Value(swept, _together(swept * twice, per_mm * engine.u_of("stroke_mm"))),
    )


def sealed_bore(final: Sealing, engine: Engine) -> Value:
    """Return the gasket's bore [mm]; where it is not stated, the cylinder's and an allowance."""
    stated = math.nan if final.bore_mm is None else final.bore_mm
    usual = Value(engine.sizes.bore_mm) + WIDER_MM
    missing = np.isnan(stated)
    if not isinstance(missing, np.ndarray):
        return usual if missing else Value(stated, DIMENSION_U_MM)
    bore: Any = np.where(missing, usual.value, stated)
    u: Any = np.where(missing, usual.u, DIMENSION_U_MM)
    return Value(bore, u)


def _unsaid(context: EvaluationContext) -> list[str]:
    """Return which of bore and stroke are not stated; no volume without them."""
    engine = context.job.engine
    sizes = {"bore": engine.bore_mm, "stroke": engine.stroke_mm}
    return [f"{name} not stated" for name, size in sizes.items() if size is None]


def _together(*parts: float) -> float:
    """Return the root of the sum of squares, numbers or arrays."""
    found: float = sum(part * part for part in parts) ** 0.5
    return found


def _corrections(cylinder: int, context: EvaluationContext) -> tuple[Correction, ...]:
    """Return a cylinder's ratio from its volumes and the parts of its u [1]; NaN if none left."""
    volumes = volumes_of(context, cylinder)
    assert volumes is not None
    engine, sizes, deck = context.job.engine, context.job.engine.sizes, context.known_decks[cylinder].clearance
    swept, left = volumes.swept.value, _room(volumes.clearance_cc)
    per_cc = -swept / left**2
    per_mm = cylinder_volume(sizes.bore_mm, 1.0)
    bore = (2 * swept / left + per_cc * 2 * volumes.deck.value) / sizes.bore_mm
    u = {
        UncertaintySource.DIMENSIONS: _together(
            bore * engine.u_of("bore_mm"), swept / sizes.stroke_mm / left * engine.u_of("stroke_mm")
        ),
        UncertaintySource.GASKET: abs(per_cc) * volumes.gasket.u,
        UncertaintySource.DECK: abs(per_cc) * per_mm * deck.u,
        UncertaintySource.PISTON: abs(per_cc) * volumes.piston.u,
        UncertaintySource.CHAMBER: abs(per_cc) * volumes.chamber.u,
    }
    # Only the deck's volume rests on few readings.
    few = u[UncertaintySource.DECK] ** 4 / deck.freedom
    ratio = of_variance((swept + left) / left, _together(*u.values()) ** 2, few)
    return (Correction("from the volumes", ratio, parts=tuple(Part(of, one) for of, one in u.items())),)


def _room(clearance_cc: float) -> float:
    """Return the volume above a crown [cm3]; in a batch NaN where it is not known."""
    if not isinstance(clearance_cc, np.ndarray):
        return clearance_cc
    left: float = np.where(clearance_cc > 0, clearance_cc, math.nan)
    return left


def _finding(cylinder: int, volumes: Volumes, context: EvaluationContext) -> Finding:
    """Return the finding of one cylinder's ratio [1]; no figure where no volume is left."""
    deck = context.known_decks[cylinder]
    chamber, piston = context.parts[VolumePart.CHAMBER][cylinder], context.parts[VolumePart.PISTON][cylinder]
    assert context.final is not None
    stated = [name for name, part in (("chamber", chamber), ("piston", piston)) if part.known is Known.STATED]
    cautions = _cautions(context.job.engine, deck, context.final, chamber, piston)
    again = partial(_corrections, cylinder)
    corrections = again(context) if volumes.clearance_cc > 0 else ()
    if not corrections:
        cautions += ("These volumes leave no room above the crown. Check the dome and the chamber.",)
    carried = (*deck.carried, *chamber.carried, *piston.carried)
    return Finding(
        figure=corrections[0].delta if corrections else None,
        method=f"{' and '.join(stated)} stated, not measured" if stated else "volumes measured",
        corrections=corrections,
        evidence=(*deck.evidence, *(reading.key for part in (chamber, piston) for reading in part.readings)),
        cautions=cautions,
        carried=carried,
        read_again=bool(carried),
        again=again,
    )


def _ratios(context: EvaluationContext) -> Iterator[Check]:
    limit = context.job.limits.window(RATIO_LOW_LIMIT, RATIO_HIGH_LIMIT)
    for cylinder in context.job.engine.cylinder_numbers:
        volumes = volumes_of(context, cylinder)
        yield Check(
            kind=RATIO_CHECK,
            cylinder=cylinder,
            label=f"Ratio {cylinder}",
            limit=limit,
            governing=_finding(cylinder, volumes, context) if volumes else None,
            required=limit.is_set,
            missing="" if volumes else ", ".join(_missing(cylinder, context)),
        )


def _missing(cylinder: int, context: EvaluationContext) -> list[str]:
    inputs = {
        "deck not read": context.known_decks,
        "no chamber volume": context.parts[VolumePart.CHAMBER],
        "no piston volume": context.parts[VolumePart.PISTON],
    }
    found = [reason for reason, known in inputs.items() if cylinder not in known]
    return [*found, *_unsaid(context), *([] if context.final else ["no final gasket"])]


def _cautions(
    engine: Engine, deck: KnownDeck, final: Sealing, chamber: VolumeFigure, piston: VolumeFigure
) -> tuple[str, ...]:
    found = []
    if deck.clearance.value < 0 and final.bore_mm is not None and final.bore_mm < engine.sizes.bore_mm:
        found.append("The crown stands out and the gasket bore is smaller than the bore: it would touch the gasket.")
    if deck.by_clay:
        found.append("The deck is told by clay on the quench pads alone: read it with a bridge and indicator.")
    if final.bore_mm is None and final.compressed_mm:
        found.append(NO_GASKET_BORE)
    if chamber.known is Known.STATED:
        found.append("The chamber is stated, not measured: if the head was ever milled, it is smaller than that.")
    if piston.known is Known.STATED:
        found.append("The piston volume is stated, not measured: fill it down the hole with a burette to settle it.")
    return tuple(found)


RATIO_LOW_LIMIT = LimitName(
    "ratio_low", order=70, label="Compression ratio, least", unit=LimitUnit.NUMBER, low=2.0, high=30.0
)
RATIO_HIGH_LIMIT = LimitName(
    "ratio_high",
    order=80,
    label="Compression ratio, most",
    unit=LimitUnit.NUMBER,
    low=2.0,
    high=30.0,
    upper_of=RATIO_LOW_LIMIT,
    window="Compression ratio",
)


@dataclass(frozen=True, slots=True)
class RatioByFuel:
    """A usual window of the ratio [1] for a fuel, and why it is usual."""

    words: str
    low: float
    high: float


USUAL_BY_FUEL = (
    RatioByFuel("poor fuel or boost: it knocks first", 9.0, 9.5),
    RatioByFuel("good pump fuel, with quench and a cam that suits", 10.0, 11.0),
)
"""Windows that builders begin with; the tuner decides. Common practice, no source."""
RATIO_CHECK = Kind(
    "compression ratio",
    topics=frozenset({Topic.RATIO}),
    order=70,
    label="Ratio",
    make=_ratios,
    is_length=False,
    evenly=lambda ratio: 1 / (ratio - 1),
    shows_at=frozenset({Station.VOLUMES}),
)
