"""Which piece of the core each kind of log entry holds, and the conversion both ways."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

import mockup.readings  # noqa: F401, importing the package registers the kinds
from mockup.base.faults import Fault, refuse
from mockup.changes.change import Change
from mockup.engine.block_limit import BlockLimit
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.makers_chart import MakersChart
from mockup.engine.parts import PartsDiffer
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import HotGrowth, Running
from mockup.limits.limit_set import LimitName
from mockup.limits.sign_off import SignOff
from mockup.plans.what_if import WhatIf
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Reading

LONGEST_LINE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitEdit:
    """One limit changed for this build [mm or 1]; None removes it. The newest valid one holds."""

    limit: LimitName
    value: float | None
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class CamSteps:
    """The steps the cam can be moved by, either way [crank deg]. The newest valid one holds."""

    steps_deg: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Turning:
    """The list before turning a mock-up over, completed; ``checked`` holds what was ticked."""

    mockup: str
    checked: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    """A decided change was done; ``change`` is the number of the entry that decided it."""

    change: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblyItem:
    """One item of the final assembly list as edited: done, left out, put back, written.

    ``key`` is the generated item's own, or a new one for an item written by hand; ``words`` replace the generated ones.
    """

    key: str
    words: str = ""
    done: bool = False
    out: bool = False

    def __post_init__(self) -> None:
        if len(self.words) > LONGEST_LINE:
            refuse([Fault("words", f"At most {LONGEST_LINE} characters.")])


@dataclass(frozen=True, slots=True, kw_only=True)
class BuildSigned:
    """A signature for the build: ``standing`` every check's state, ``note`` the words.

    ``still_open``: the items of the assembly list that were not done, each signed for.
    """

    standing: str
    note: str = ""
    still_open: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Edited:
    """A change of the designed engine or its log's settings: fields, old and new values."""

    changes: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Copied:
    """The build was begun as a copy of another, by name."""

    of: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EntryKind:
    """A kind of entry that is no reading: its piece of the core, its name in the history.

    ``of_the_job``: it says something about the engine; others change nothing computed. ``of_the_block``: it stays true
    with another cam and head, so the next build on this block keeps it. ``own_key``: its ``key`` is its own and not the
    row's.
    """

    core: type[Any]
    words: str
    of_the_job: bool = True
    of_the_block: bool = False
    own_key: bool = False


ENTRY_KINDS: Mapping[str, EntryKind] = {
    "gasket": EntryKind(core=FinalGasket, words="final gasket", of_the_block=True),
    "shims": EntryKind(core=BaseShims, words="base shims", of_the_block=True),
    "limit": EntryKind(core=LimitEdit, words="limit", of_the_block=True),
    "change": EntryKind(core=Change, words="decided", of_the_block=True),
    "done": EntryKind(core=Done, words="done", of_the_block=True),
    "running": EntryKind(core=Running, words="running estimate", of_the_block=True),
    "hot-growth": EntryKind(core=HotGrowth, words="growth when hot", of_the_block=True),
    "makers-chart": EntryKind(core=MakersChart, words="maker’s chart", of_the_block=True),
    "cam-card": EntryKind(core=CamCard, words="cam card"),
    "lobe-table": EntryKind(core=LobeTable, words="measured lobe"),
    "cam-steps": EntryKind(core=CamSteps, words="cam steps"),
    "pushrods": EntryKind(core=PushrodChoice, words="pushrods"),
    "parts": EntryKind(core=PartsDiffer, words="parts differ by"),
    "sign-off": EntryKind(core=SignOff, words="signed off"),
    "block-limit": EntryKind(core=BlockLimit, words="limit of the block", of_the_block=True, of_the_job=False),
    "turning": EntryKind(core=Turning, words="before turning", of_the_job=False),
    "what-if": EntryKind(core=WhatIf, words="what-if kept", of_the_job=False),
    "assembly": EntryKind(core=AssemblyItem, words="assembly list", of_the_job=False, own_key=True),
    "signature": EntryKind(core=BuildSigned, words="build signed", of_the_job=False),
    "edited": EntryKind(core=Edited, words="engine changed", of_the_job=False),
    "copied": EntryKind(core=Copied, words="begun as a copy", of_the_job=False),
}
"""The kinds of entry besides readings, which declare themselves (``mockup.readings.kinds``)."""


def is_reading(kind: str) -> bool:
    """Return whether a kind of entry is a reading."""
    return READING_KINDS.named(kind) is not None


def words_of(kind: str) -> str:
    """Return a kind's name in the history. Raises KeyError."""
    reading = READING_KINDS.named(kind)
    return reading.words if reading else ENTRY_KINDS[kind].words


def every_kind() -> list[str]:
    """Return every kind of entry."""
    return [*(kind.name for kind in READING_KINDS), *ENTRY_KINDS]


def kinds_of_the_block() -> list[str]:
    """Return the kinds of entry that the next build on the same block keeps."""
    readings = [kind.name for kind in READING_KINDS if kind.of_the_block]
    return [*readings, *(name for name, kind in ENTRY_KINDS.items() if kind.of_the_block)]


_KEPT_BY_THE_ROW = {"key", "record", "after", "order", "supposed"}
_NAMES = {line.core: name for name, line in ENTRY_KINDS.items()}


_ADAPTERS: dict[Any, TypeAdapter[Any]] = {}


def _adapter(core: type[Any]) -> TypeAdapter[Any]:
    if core not in _ADAPTERS:
        _ADAPTERS[core] = TypeAdapter(core)
    return _ADAPTERS[core]


def kept(record: Any) -> dict[str, Any]:
    """Return a core record as a row stores it."""
    found: dict[str, Any] = _adapter(type(record)).dump_python(record, mode="json")
    return found


def record_of(core: type[Any], data: Mapping[str, Any]) -> Any:
    """Return the record that a row stores."""
    return _adapter(core).validate_python(data)


def kind_of(item: Any) -> str:
    """Return the kind of entry that holds this piece of the core."""
    return READING_KINDS.of(type(item)).name if isinstance(item, Reading) else _NAMES[type(item)]


def data_of(item: Any) -> dict[str, Any]:
    """Return a piece of the core as an entry's data."""
    line = ENTRY_KINDS.get(kind_of(item))
    kept = _KEPT_BY_THE_ROW - ({"key"} if line and line.own_key else set())
    found: dict[str, Any] = _adapter(type(item)).dump_python(item, mode="json", exclude=kept)
    return found


def item_of(kind: str, data: Mapping[str, Any], **kept_by_the_row: Any) -> Any:
    """Return the piece of the core in an entry. Raises KeyError for an unknown kind."""
    reading = READING_KINDS.named(kind)
    core = reading.core if reading else ENTRY_KINDS[kind].core
    return record_of(core, {**data, **kept_by_the_row})
