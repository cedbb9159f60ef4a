"""What a shop has and is ready to do, and the kinds of work a plan is made of."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from mockup.changes.kind import DEEPEST_MM, ChangeKind, Only, Pulled
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.faults import Fault, refuse
from mockup.job import Job

MOST_COMBINATIONS = 20_000


@dataclass(frozen=True, slots=True)
class Lever:
    """One part of a plan: a kind of change, of one side's valves or cam where it is of one."""

    kind: ChangeKind
    side: Side | None = None

    @property
    def pulled(self) -> Pulled:
        """What its kind declares of it."""
        assert self.kind.pulled is not None
        return self.kind.pulled

    def named(self, words: str) -> str:
        """Words of its kind with its side in them."""
        return words.format(side=self.side or "").strip()

    def __str__(self) -> str:
        """Its name."""
        return self.named(self.pulled.words)


def levers() -> tuple[Lever, ...]:
    """Every lever there is, in the order they are best pulled."""
    pulled = [
        (kind.pulled.order, Lever(kind, side)) for kind in ChangeKind if kind.pulled for side in kind.pulled.sides
    ]
    return tuple(lever for _, lever in sorted(pulled, key=lambda pair: pair[0]))


def can_be_made(kind: ChangeKind, job: Job) -> bool:
    """Whether a kind of change is one of this engine."""
    barrels = job.engine.separate_barrels
    if kind is ChangeKind.ROCKERS and job.engine.rocker_ratio is None:
        return False
    return {
        Only.ANY: True,
        Only.ONE_DECK: not barrels,
        Only.SEPARATE_BARRELS: barrels,
        Only.PUSHRODS_CHOSEN: job.pushrods_chosen is not None,
    }[kind.only]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShopLimits:
    """What a shop has and is ready to do. Raises FaultsError.

    ``cam_deg``: how far a cam can be moved, advanced positive [deg]; ``cams_apart``: intake and exhaust each have a cam
    that is moved by itself; ``ratios`` of rockers that can be had [1];
    ``shims_mm``: how much more or less base shims could be [mm]. ``cuts_mm``: how deep each kind of cut may go [mm], 0
    to 10, left out where nobody wants it; of reliefs what may come off the crown and the land,
    along the bore. Steps are what the shop works to;
    ``pushrod_step_mm`` [mm] is what lies between the lengths of pushrods that can be had, 0 where none can.
    """

    gaskets: tuple[FinalGasket, ...] = ()
    cam_deg: tuple[float, ...] = ()
    cams_apart: bool = False
    ratios: tuple[float, ...] = ()
    shims_mm: tuple[float, ...] = ()
    cuts_mm: Mapping[ChangeKind, float] = field(default_factory=dict)
    pushrod_step_mm: float = 0.0
    relief_step_mm: float = 0.10
    cut_step_mm: float = 0.01

    def __post_init__(self) -> None:
        found = [
            Fault(f"cuts_mm.{kind}", "From 0 (not at all) to 10 mm (0.394 in).")
            for kind, deepest in self.cuts_mm.items()
            if not 0 <= deepest <= DEEPEST_MM
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
