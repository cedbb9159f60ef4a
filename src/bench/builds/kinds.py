"""Which piece of the core each kind of entry holds, and the way from one to the other and back."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from pydantic import TypeAdapter

from mockup.checks.margins import LimitName
from mockup.checks.sign_off import SignOff
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.changes import Change
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.running import Running
from mockup.faults import Fault, refuse
from mockup.plans.what_if import WhatIf
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.deck import DeckReading
from mockup.readings.pushrods import PushrodChoice, PushrodReading, WipeReading
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumeReading

LONGEST_LINE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitEdit:
    """One limit changed for this build [mm or 1]; None takes it away. The newest one standing holds."""

    limit: LimitName
    value: float | None
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class CamSteps:
    """What the cam can be moved by, either way [crank deg]. The newest one standing holds."""

    steps_deg: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Turning:
    """Somebody went through the list before turning a mock-up over; ``checked`` says what was ticked."""

    mockup: str
    checked: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    """A change that was decided has been done; ``change`` is the number of the entry that decided it."""

    change: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblyLine:
    """One line of the final assembly list as somebody left it: done, left out, put back, or written by hand.

    ``key`` is the made line's own, or one made up for a line written by hand; ``words`` replace the made ones.
    """

    key: str
    words: str = ""
    done: bool = False
    out: bool = False

    def __post_init__(self) -> None:
        if len(self.words) > LONGEST_LINE:
            refuse([Fault("words", f"At most {LONGEST_LINE} characters.")])


@dataclass(frozen=True, slots=True, kw_only=True)
class Signature:
    """Somebody signed the whole build as it stood: ``standing`` is how every check stood then, ``note`` their words."""

    standing: str
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Edited:
    """The engine as designed, or how its book is kept, was changed: each thing, what it was and what it became."""

    changes: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Copied:
    """The build was begun as a copy of another, by name."""

    of: str


KINDS: Mapping[str, type[Any]] = {
    "tdc": TdcReading,
    "deck": DeckReading,
    "clay": ClayReading,
    "head": HeadReading,
    "sweep": SweepReading,
    "volume": VolumeReading,
    "gasket": FinalGasket,
    "shims": BaseShims,
    "limit": LimitEdit,
    "change": Change,
    "done": Done,
    "running": Running,
    "cam-card": CamCard,
    "lobe-table": LobeTable,
    "cam-steps": CamSteps,
    "pushrods": PushrodChoice,
    "turning": Turning,
    "degree": DegreeReading,
    "lift": LiftReading,
    "pushrod": PushrodReading,
    "wipe": WipeReading,
    "sign-off": SignOff,
    "what-if": WhatIf,
    "assembly": AssemblyLine,
    "signature": Signature,
    "edited": Edited,
    "copied": Copied,
}
READINGS = {
    "tdc": "tdc",
    "deck": "deck",
    "clay": "clay",
    "head": "heads",
    "sweep": "sweeps",
    "volume": "volumes",
    "degree": "degrees",
    "lift": "lifts",
    "pushrod": "pushrods",
    "wipe": "wipes",
}
"""Kinds that are readings, and the name of the job's list they stand in."""

_NAMES = {core: kind for kind, core in KINDS.items()}
_KEPT_BY_THE_ROW = {"key", "record", "after", "order", "supposed"}
_KEYED_BY_ITSELF = (AssemblyLine,)
"""Kinds whose ``key`` is theirs and not the row's."""


@cache
def _adapter(kind: str) -> TypeAdapter[Any]:
    return TypeAdapter(KINDS[kind])


def kind_of(item: Any) -> str:
    """The kind of entry that holds such a piece of the core."""
    return _NAMES[type(item)]


def data_of(item: Any) -> dict[str, Any]:
    """A piece of the core as an entry's data."""
    kept = _KEPT_BY_THE_ROW - ({"key"} if isinstance(item, _KEYED_BY_ITSELF) else set())
    found: dict[str, Any] = _adapter(kind_of(item)).dump_python(item, mode="json", exclude=kept)
    return found


def item_of(kind: str, data: Mapping[str, Any], **kept_by_the_row: Any) -> Any:
    """The piece of the core an entry holds."""
    return _adapter(kind).validate_python({**data, **kept_by_the_row})
