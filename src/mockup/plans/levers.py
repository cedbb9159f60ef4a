"""What a shop has and is ready to do, and the kinds of work a plan is made of."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from mockup.base.faults import Fault, refuse
from mockup.changes.change import DEEPEST_MM, ChangeKind
from mockup.changes.options import Only, RemedyOption
from mockup.changes.train import ROCKERS_CHANGED
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.job import Job
from mockup.quantity.shown import mm_range, mm_text

MOST_COMBINATIONS = 20_000


@dataclass(frozen=True, slots=True)
class Lever:
    """One part of a plan: a kind of change, for one side's valves or cam where it has sides."""

    kind: ChangeKind
    side: Side | None = None

    @property
    def remedy(self) -> RemedyOption:
        """The remedy settings of its kind."""
        assert self.kind.remedy is not None
        return self.kind.remedy

    def named(self, words: str) -> str:
        """Return words of its kind with its side filled in."""
        return words.format(side=self.side or "").strip()

    def __str__(self) -> str:
        """Return its name."""
        return self.named(self.remedy.words)


def levers() -> tuple[Lever, ...]:
    """Return every lever, in the order best used."""
    remedy = [
        (kind.remedy.order, Lever(kind, side)) for kind in ChangeKind.all() if kind.remedy for side in kind.remedy.sides
    ]
    return tuple(lever for _, lever in sorted(remedy, key=lambda pair: pair[0]))


def can_be_made(kind: ChangeKind, job: Job) -> bool:
    """Return whether a kind of change can be made on this engine."""
    barrels = job.engine.separate_barrels
    if kind is ROCKERS_CHANGED and job.engine.rocker_ratio is None:
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

    ``cam_deg``: how far a cam can be moved, advanced positive [deg]; ``cams_apart``: intake and exhaust cams can be
    moved separately; ``ratios`` of available rockers [1]; ``shims_mm``: how much more or less base shims there could be
    [mm]. ``cuts_mm``: how deep each kind of cut may go [mm], 0 to 10, missing where it is not wanted; for reliefs what
    may come off crown and land, along the bore. Steps are what the shop works to; ``pushrod_step_mm`` [mm]: the step
    between available pushrods, 0 for none.
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
            Fault(f"cuts_mm.{kind}", f"From 0 (not at all) to {mm_text(10)}.")
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
            found.append(Fault("gaskets", "Too many combinations: leave some gaskets or steps out."))
        if not 0 <= self.pushrod_step_mm <= 30:
            found.append(Fault("pushrod_step_mm", f"A step of {mm_range(0, 30)}."))
        if min(self.relief_step_mm, self.cut_step_mm) <= 0:
            found.append(Fault("relief_step_mm", "A step is more than zero."))
        refuse(found)
