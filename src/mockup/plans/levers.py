"""What a shop has and is ready to do, and the kinds of work a plan is made of."""

import math
from dataclasses import dataclass
from enum import StrEnum

from mockup.engine.changes import DEEPEST_MM
from mockup.engine.gasket import FinalGasket
from mockup.faults import Fault, refuse

MOST_COMBINATIONS = 20_000


class Lever(StrEnum):
    """One kind of work, and so one part of a plan."""

    GASKET = "gasket"
    SHIMS = "base shims"
    CAM = "cam"
    CAM_INTAKE = "intake cam"
    CAM_EXHAUST = "exhaust cam"
    ROCKERS = "rockers"
    PUSHRODS = "pushrods"
    RELIEF_INTAKE = "intake reliefs deeper"
    RELIEF_EXHAUST = "exhaust reliefs deeper"
    EDGE_INTAKE = "intake reliefs wider"
    EDGE_EXHAUST = "exhaust reliefs wider"
    HEAD = "head cut"
    DECK = "deck cut"


WORK = {
    Lever.GASKET: 1.0,
    Lever.SHIMS: 1.5,
    Lever.CAM: 2.0,
    Lever.CAM_INTAKE: 2.0,
    Lever.CAM_EXHAUST: 2.0,
    Lever.ROCKERS: 3.0,
    Lever.PUSHRODS: 1.5,
    Lever.HEAD: 6.0,
    Lever.RELIEF_INTAKE: 7.0,
    Lever.RELIEF_EXHAUST: 7.0,
    Lever.EDGE_INTAKE: 7.0,
    Lever.EDGE_EXHAUST: 7.0,
    Lever.DECK: 9.0,
}
"""How much work each part is against a gasket: our own order, bench before machine shop, head before pistons."""

FIELDS = {
    Lever.SHIMS: "shims_mm",
    Lever.CAM: "advanced_deg",
    Lever.CAM_INTAKE: "intake_cam_deg",
    Lever.CAM_EXHAUST: "exhaust_cam_deg",
    Lever.ROCKERS: "more_ratio",
    Lever.PUSHRODS: "pushrod_mm",
    Lever.RELIEF_INTAKE: "relief_intake_mm",
    Lever.RELIEF_EXHAUST: "relief_exhaust_mm",
    Lever.EDGE_INTAKE: "edge_intake_mm",
    Lever.EDGE_EXHAUST: "edge_exhaust_mm",
    Lever.HEAD: "head_mm",
    Lever.DECK: "deck_mm",
}
"""What each part but the gasket is called among the amounts of a surface."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ShopLimits:
    """What a shop has and is ready to do. Raises FaultsError.

    ``cam_deg``: how far a cam can be moved, advanced positive [deg]; ``cams_apart``: intake and exhaust each have a cam
    that is moved by itself; ``ratios`` of rockers that can be had [1];
    ``shims_mm``: how much more or less base shims could be [mm]. Deepest cuts are 0 where nobody wants to cut:
    reliefs [mm] as the crown allows with its minimum thickness, head and deck [mm]. Steps are what the shop works to;
    ``pushrod_step_mm`` [mm] is what lies between the lengths of pushrods that can be had, 0 where none can.
    """

    gaskets: tuple[FinalGasket, ...] = ()
    cam_deg: tuple[float, ...] = ()
    cams_apart: bool = False
    ratios: tuple[float, ...] = ()
    shims_mm: tuple[float, ...] = ()
    relief_mm: float = 0.0
    edge_mm: float = 0.0
    head_mm: float = 0.0
    deck_mm: float = 0.0
    pushrod_step_mm: float = 0.0
    relief_step_mm: float = 0.10
    cut_step_mm: float = 0.01

    def __post_init__(self) -> None:
        found = [
            Fault(name, "From 0 (not at all) to 10 mm (0.394 in).")
            for name in ("relief_mm", "edge_mm", "head_mm", "deck_mm")
            if not 0 <= getattr(self, name) <= DEEPEST_MM
        ]
        for name, most in (("cam_deg", 30.0), ("shims_mm", DEEPEST_MM)):
            if not all(abs(one) <= most for one in getattr(self, name)):
                found.append(Fault(name, f"Each within {most:g} either way."))
        if not all(1 <= ratio <= 3 for ratio in self.ratios):
            found.append(Fault("ratios", "Ratios of 1 to 3."))
        sizes = [len(getattr(self, name)) + 1 for name in ("gaskets", "cam_deg", "ratios", "shims_mm")]
        sizes += [len(self.cam_deg) + 1] if self.cams_apart else []
        if math.prod(sizes) > MOST_COMBINATIONS:
            found.append(Fault("gaskets", "Too many things to choose from at once: leave some gaskets or steps out."))
        if not 0 <= self.pushrod_step_mm <= 30:
            found.append(Fault("pushrod_step_mm", "A step of 0 to 30 mm (1.18 in)."))
        if min(self.relief_step_mm, self.cut_step_mm) <= 0:
            found.append(Fault("relief_step_mm", "A step is more than nothing."))
        refuse(found)
