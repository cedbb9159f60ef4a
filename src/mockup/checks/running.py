"""The running estimate: what growth, stretch and bearings would use of a cold clearance.

Never mixed into it.

thermal = a_block H dT_block - (a_crank r dT_crank + a_rod l dT_rod + a_piston h_c dT_piston) stretch = m_reciprocating
acc_TDC l / (A_rod E_rod) at overlap TDC, where nothing holds the piston back

Source: linear expansion and Hooke's law; acceleration at TDC w^2 r (l + r) / (l sqrt(1 - (e/(l + r))^2)), any text on
engine dynamics, offset from the geometry (docs/how-it-computes.md, "Running estimate").
"""

import math
from dataclasses import dataclass

from mockup.engine.running import EXPANSION_PER_K, YOUNG_GPA, Material, Running
from mockup.fit.deck_figures import DeckFigure
from mockup.motion.slider_crank import SliderCrank
from mockup.quantity.corrections import Correction, running_figure
from mockup.quantity.value import Value


@dataclass(frozen=True, slots=True)
class Budget:
    """What is used of a clearance along the bore [mm], one correction each; negative reduces."""

    corrections: tuple[Correction, ...]

    @property
    def total_mm(self) -> float:
        """The total [mm]."""
        return running_figure(self.corrections).value


def tdc_acceleration(crank: SliderCrank, rpm: float) -> float:
    """Return the piston acceleration at its TDC [m/s2] at ``rpm``, scalar [1/min]."""
    r, rod, offset = crank.radius_mm / 1000, crank.rod_mm / 1000, crank.offset_mm / 1000
    turning = rpm * 2 * math.pi / 60
    return turning**2 * r * (rod + r) / (rod * math.sqrt(1 - (offset / (rod + r)) ** 2))


def stretch_mm(crank: SliderCrank, running: Running) -> float:
    """Return how much the reciprocating mass stretches the rod at overlap TDC [mm]."""
    pull_n = running.reciprocating_g / 1000 * tdc_acceleration(crank, running.rpm)
    return pull_n * crank.rod_mm / (running.rod_area_mm2 * YOUNG_GPA[running.rod] * 1000)


def budget(deck: DeckFigure, crank: SliderCrank, running: Running) -> Budget:
    """Return the budget of one cylinder from its cold deck clearance."""
    deck_height = crank.tdc_height_mm + running.compression_height_mm + deck.clearance.value

    def grows(words: str, material: Material, length_mm: float, rise_k: float, sign: float) -> Correction:
        return Correction(words, Value(sign * EXPANSION_PER_K[material] * length_mm * rise_k))

    corrections = [
        grows("block grows", running.block, deck_height, running.block_rise_k, 1.0),
        grows("crank throw grows", Material.STEEL, crank.radius_mm, running.crank_rise_k, -1.0),
        grows("rod grows", running.rod, crank.rod_mm, running.rod_rise_k, -1.0),
        grows("piston grows", running.piston, running.compression_height_mm, running.piston_rise_k, -1.0),
        Correction("rod stretches at overlap TDC", Value(-stretch_mm(crank, running))),
        Correction("bearing clearances taken up", Value(-running.bearings_mm)),
    ]
    if deck.rock:
        corrections.append(Correction("piston rock", Value(-deck.rock.value)))
    return Budget(tuple(corrections))
