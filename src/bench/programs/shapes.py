"""What programs are told and may send, as the shapes that the description (OpenAPI) is made of."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Any, Literal, Union
from uuid import UUID

from ninja import Field, Schema
from pydantic import create_model

from mockup.jobfile.shape import shape_of
from mockup.reading_kinds import READING_KINDS, ReadingKind

MOST_AT_ONCE = 500


class FaultOut(Schema):
    """One thing wrong: where, and what would be right."""

    path: str
    message: str


class FaultsOut(Schema):
    """Why nothing was done."""

    faults: list[FaultOut]


class BuildOut(Schema):
    """One build of the shop."""

    id: int
    name: str
    subtitle: str
    state: str = Field(description="as the verdict has it: clear, not clear, unfinished, clear or signed off")
    touched_at: datetime
    put_away: bool
    tightest: str | None = Field(None, description="the check with least left, in words")
    address: str = Field(description="its page, for people")


class BuildsOut(Schema):
    """Builds of the shop, 25 a page."""

    builds: list[BuildOut]
    page: int
    pages: int


class ReadingOut(Schema):
    """One reading as the book has it; ``fields`` as in a job file, lengths as text with their unit."""

    key: str
    kind: str
    fields: dict[str, Any]
    typed: str
    by: str
    at: str
    struck: str = Field(description="why it was struck out; empty while it stands")


class ReadingsOut(Schema):
    """The readings of a build, in the order they were taken."""

    readings: list[ReadingOut]


class Written(Schema):
    """What was written: the keys of the readings, in the order they were sent; of those already there too."""

    keys: list[str]
    state: str = Field(description="of the build, with them")


class StrikeIn(Schema):
    """Why a reading is struck out."""

    reason: str = Field(min_length=1, max_length=200)


class Struck(Schema):
    """A reading that was struck out."""

    key: str
    struck: str


class GaugeIn(Schema):
    """What a gauge read, as somebody would type it: a number or words, with its unit where it has one."""

    value: float | str = Field(description="a number, or words as 6 down")
    unit: Literal["", "in", "mm", "thou"] = ""
    gauge: str = Field("", max_length=40, description="the key of an instrument of the shelf")
    age_ms: float = Field(0, ge=0, le=604_800_000, description="how long ago it was read, in milliseconds")
    token: UUID = Field(description="of the reading itself: the same one again is the same reading")


class GaugeOut(Schema):
    """A reading that waits for a page of its person."""

    token: UUID
    text: str
    waiting: int = Field(description="how many wait, with this one")


class KindOut(Schema):
    """A kind of reading: what it is called, and the fields it has."""

    kind: str
    words: str
    station: str
    fields: dict[str, Any] = Field(description="a JSON Schema")


def _sent(kind: ReadingKind) -> Any:
    """What is sent of one kind of reading: its fields as in a job file, a bare number in mm, and a token of its own."""
    more: dict[str, Any] = {
        "kind": (Literal[kind.name], ...),
        "token": (UUID | None, Field(None, description="the same one again is written once")),
    }
    words = f"A reading of the kind {kind.name}. Lengths are numbers in mm, or text with its unit."
    return create_model(f"{kind.core.__name__}In", __base__=shape_of(kind.core), __doc__=words, **more)


SENT = {kind.name: _sent(kind) for kind in READING_KINDS}
Sent: Any = Annotated[Union[tuple(SENT.values())], Field(discriminator="kind")]  # noqa: UP007, made of what there is


class ReadingsIn(Schema):
    """Readings to be written, all of them or none."""

    readings: Annotated[Sequence[Sent], Field(min_length=1, max_length=MOST_AT_ONCE)]
