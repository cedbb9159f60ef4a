"""Which piece of the core each kind of entry holds, and the way from one to the other and back."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from mockup.checks.margins import LimitName
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.changes import Change
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.running import Running
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.deck import DeckReading
from mockup.readings.pushrods import PushrodChoice, PushrodReading, WipeReading
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumeReading


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
_ADAPTERS = {kind: TypeAdapter(core) for kind, core in KINDS.items()}
_KEPT_BY_THE_ROW = {"key", "record", "after", "order"}


def kind_of(item: Any) -> str:
    """The kind of entry that holds such a piece of the core."""
    return _NAMES[type(item)]


def data_of(item: Any) -> dict[str, Any]:
    """A piece of the core as an entry's data."""
    found: dict[str, Any] = _ADAPTERS[kind_of(item)].dump_python(item, mode="json", exclude=_KEPT_BY_THE_ROW)
    return found


def item_of(kind: str, data: Mapping[str, Any], **kept_by_the_row: Any) -> Any:
    """The piece of the core an entry holds."""
    return _ADAPTERS[kind].validate_python({**data, **kept_by_the_row})
