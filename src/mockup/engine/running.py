"""The engine hot and turning: materials, temperatures, masses.

For an estimate shown beside the cold figures.

Linear expansion and Young's moduli: handbook values, from memory. Starting temperatures and masses: our own round
figures, no source; the builder should replace all of them.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from mockup.base.faults import Fault, out_of_range, refuse
from mockup.quantity.fields import Mm, Within, outside
from mockup.quantity.shown import mm_text
from mockup.quantity.typed_units import AREA, MASS, RISE


class Material(StrEnum):
    """What a part is made of."""

    IRON = "cast iron"
    STEEL = "steel"
    ALUMINIUM = "cast aluminium"
    WROUGHT = "wrought aluminium"
    ALLOY_4032 = "4032 piston alloy"
    ALLOY_2618 = "2618 piston alloy"
    HYPEREUTECTIC = "hypereutectic piston alloy"
    TITANIUM = "titanium"


EXPANSION_PER_K = {
    Material.IRON: 10.8e-6,
    Material.STEEL: 11.7e-6,
    Material.ALUMINIUM: 21.5e-6,
    Material.WROUGHT: 23.4e-6,
    Material.ALLOY_4032: 19.5e-6,
    Material.ALLOY_2618: 22.3e-6,
    Material.HYPEREUTECTIC: 18.0e-6,
    Material.TITANIUM: 8.6e-6,
}
YOUNG_GPA = {Material.STEEL: 205.0, Material.WROUGHT: 71.0, Material.TITANIUM: 114.0}

BLOCKS = (Material.IRON, Material.ALUMINIUM)
RODS = tuple(YOUNG_GPA)
PISTONS = (Material.ALLOY_4032, Material.ALLOY_2618, Material.HYPEREUTECTIC)

RANGES = {
    "compression_height_mm": (5.0, 200.0),
    "block_rise_k": (0.0, 300.0),
    "crank_rise_k": (0.0, 300.0),
    "rod_rise_k": (0.0, 300.0),
    "piston_rise_k": (0.0, 400.0),
    "rpm": (0.0, 20000.0),
    "reciprocating_g": (10.0, 10000.0),
    "rod_area_mm2": (10.0, 2000.0),
    "bearings_mm": (0.0, 1.0),
}


_MEASURES = {
    **dict.fromkeys(("block_rise_k", "crank_rise_k", "rod_rise_k", "piston_rise_k"), RISE),
    "reciprocating_g": MASS,
    "rod_area_mm2": AREA,
}
_MEASURED_WORDS = {name: f"From {measure.range_words(*RANGES[name])}." for name, measure in _MEASURES.items()}

MOST_GROWTH_MM = 1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class HotGrowth:
    """How much a quench grows from cold to hot, as the builder knows it; negative shrinks [mm].

    It is shown beside the computed estimate and, like that, never counted in a cold figure. Raises FaultsError beyond
    1.5 mm either way.
    """

    hot_mm: Annotated[
        Mm, Within(-MOST_GROWTH_MM, MOST_GROWTH_MM, f"A growth within {mm_text(MOST_GROWTH_MM)} either way.")
    ]

    def __post_init__(self) -> None:
        refuse(outside(self))


@dataclass(frozen=True, slots=True, kw_only=True)
class Running:
    """The inputs of the running estimate.

    ``compression_height_mm`` [mm]; temperature rises over the bench, ``*_rise_k`` [K]; ``rpm`` [1/min];
    ``reciprocating_g`` piston, pin, rings, small end and half the beam [g]; ``rod_area_mm2`` of the beam [mm2];
    ``bearings_mm`` diametral clearances of rod, main and pin that the hand check took up the other way [mm]. Raises
    FaultsError outside RANGES, or for a material the part cannot be made of.
    """

    compression_height_mm: Mm
    block: Material = Material.IRON
    rod: Material = Material.STEEL
    piston: Material = Material.ALLOY_4032
    block_rise_k: float = 65.0
    crank_rise_k: float = 70.0
    rod_rise_k: float = 80.0
    piston_rise_k: float = 150.0
    rpm: float = 6000.0
    reciprocating_g: float = 800.0
    rod_area_mm2: float = 150.0
    bearings_mm: Mm = 0.0

    def __post_init__(self) -> None:
        found = [Fault(one.path, _MEASURED_WORDS.get(one.path, one.message)) for one in out_of_range(self, RANGES)]
        for name, choices in (("block", BLOCKS), ("rod", RODS), ("piston", PISTONS)):
            if getattr(self, name) not in choices:
                found.append(Fault(name, f"One of: {', '.join(choices)}."))
        refuse(found)
