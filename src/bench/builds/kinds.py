"""Which piece of the core each kind of entry holds, and the way from one to the other and back."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

import mockup.readings  # noqa: F401, its kinds declare themselves as they are read in
from mockup.changes.change import Change
from mockup.engine.block_limit import BlockLimit
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.parts import PartsDiffer
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import Running
from mockup.faults import Fault, refuse
from mockup.limits.margins import LimitName
from mockup.limits.sign_off import SignOff
from mockup.plans.what_if import WhatIf
from mockup.reading_kinds import READING_KINDS
from mockup.record import Reading

LONGEST_LINE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitEdit:
    """One limit changed for this build [mm or 1]; None takes it away. The newest one standing holds."""

    limit: LimitName
    value: float | None
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class CamSteps:
    """Steps the cam can be moved by, either way [crank deg]. The newest one standing holds."""

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
class BuildSigned:
    """Somebody signed the whole build as it stood: ``standing`` is how every check stood then, ``note`` their words.

    ``still_open``: the lines of the assembly list that were not done, in words: signed for one by one.
    """

    standing: str
    note: str = ""
    still_open: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Edited:
    """The engine as designed, or how its book is kept, was changed: each thing, what it was and what it became."""

    changes: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Copied:
    """The build was begun as a copy of another, by name."""

    of: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LineKind:
    """A kind of line that is no reading: the piece of the core it holds, and what the history calls it.

    ``of_the_job``: it says something of the engine; other lines are kept beside it, and change nothing computed.
    ``own_key``: its ``key`` is its own and not the row's.
    """

    core: type[Any]
    words: str
    of_the_job: bool = True
    own_key: bool = False


LINES: Mapping[str, LineKind] = {
    "gasket": LineKind(core=FinalGasket, words="final gasket"),
    "shims": LineKind(core=BaseShims, words="base shims"),
    "limit": LineKind(core=LimitEdit, words="limit"),
    "change": LineKind(core=Change, words="decided"),
    "done": LineKind(core=Done, words="done"),
    "running": LineKind(core=Running, words="running estimate"),
    "cam-card": LineKind(core=CamCard, words="cam card"),
    "lobe-table": LineKind(core=LobeTable, words="measured lobe"),
    "cam-steps": LineKind(core=CamSteps, words="cam steps"),
    "pushrods": LineKind(core=PushrodChoice, words="pushrods"),
    "parts": LineKind(core=PartsDiffer, words="parts differ by"),
    "sign-off": LineKind(core=SignOff, words="signed off"),
    "block-limit": LineKind(core=BlockLimit, words="limit of the block", of_the_job=False),
    "turning": LineKind(core=Turning, words="before turning", of_the_job=False),
    "what-if": LineKind(core=WhatIf, words="what-if kept", of_the_job=False),
    "assembly": LineKind(core=AssemblyLine, words="assembly list", of_the_job=False, own_key=True),
    "signature": LineKind(core=BuildSigned, words="build signed", of_the_job=False),
    "edited": LineKind(core=Edited, words="engine changed", of_the_job=False),
    "copied": LineKind(core=Copied, words="begun as a copy", of_the_job=False),
}
"""What stands in a book beside readings. Readings declare themselves (``mockup.reading_kinds``)."""


def is_reading(kind: str) -> bool:
    """Whether a kind of line is a reading."""
    return READING_KINDS.named(kind) is not None


def words_of(kind: str) -> str:
    """What the history calls a kind of line. Raises KeyError for one that is not known."""
    reading = READING_KINDS.named(kind)
    return reading.words if reading else LINES[kind].words


def every_kind() -> list[str]:
    """Every kind of line there is."""
    return [*(kind.name for kind in READING_KINDS), *LINES]


_KEPT_BY_THE_ROW = {"key", "record", "after", "order", "supposed"}
_NAMES = {line.core: name for name, line in LINES.items()}


_ADAPTERS: dict[Any, TypeAdapter[Any]] = {}


def _adapter(core: type[Any]) -> TypeAdapter[Any]:
    if core not in _ADAPTERS:
        _ADAPTERS[core] = TypeAdapter(core)
    return _ADAPTERS[core]


def kept(record: Any) -> dict[str, Any]:
    """A record of the core as a row keeps it."""
    found: dict[str, Any] = _adapter(type(record)).dump_python(record, mode="json")
    return found


def record_of(core: type[Any], data: Mapping[str, Any]) -> Any:
    """The record that a row keeps."""
    return _adapter(core).validate_python(data)


def kind_of(item: Any) -> str:
    """The kind of line that holds such a piece of the core."""
    return READING_KINDS.of(type(item)).name if isinstance(item, Reading) else _NAMES[type(item)]


def data_of(item: Any) -> dict[str, Any]:
    """A piece of the core as a line's data."""
    line = LINES.get(kind_of(item))
    kept = _KEPT_BY_THE_ROW - ({"key"} if line and line.own_key else set())
    found: dict[str, Any] = _adapter(type(item)).dump_python(item, mode="json", exclude=kept)
    return found


def item_of(kind: str, data: Mapping[str, Any], **kept_by_the_row: Any) -> Any:
    """The piece of the core a line holds. Raises KeyError for a kind that is not known."""
    reading = READING_KINDS.named(kind)
    core = reading.core if reading else LINES[kind].core
    return record_of(core, {**data, **kept_by_the_row})
