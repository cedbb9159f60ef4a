"""The requests and answers of the API, as the schemas that OpenAPI is made from."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Any, Literal, Union
from uuid import UUID

from ninja import Field, Schema
from pydantic import create_model

from mockup.formats.job_shape import shape_of
from mockup.readings.kinds import READING_KINDS, ReadingKind

MOST_AT_ONCE = 500


class FaultOut(Schema):
    """One fault: where, and what would be right."""

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
    """One reading in the log; ``fields`` as in a job file, lengths as text with their unit."""

    key: str
    kind: str
    fields: dict[str, Any]
    typed: str
    by: str
    at: str
    struck: str = Field(description="why it was struck out; empty while it is valid")


class ReadingsOut(Schema):
    """The readings of a build, in the order they were taken."""

    readings: list[ReadingOut]


class Written(Schema):
    """The keys of the written readings, in the order sent, including those already there."""

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
    """A gauge's reading as a person would type it, with its unit where it has one."""

    value: float | str = Field(description="a number, or words as 6 down")
    unit: Literal["", "in", "mm", "thou"] = ""
    gauge: str = Field("", max_length=40, description="the key of an instrument of the shelf")
    age_ms: float = Field(0, ge=0, le=604_800_000, description="how long ago it was read, in milliseconds")
    token: UUID = Field(description="of the reading itself: the same token is the same reading")


class GaugeOut(Schema):
    """A reading that waits for a page of its person."""

    token: UUID
    text: str
    waiting: int = Field(description="how many wait, with this one")


class KindOut(Schema):
    """A kind of reading: its name, and its fields."""

    kind: str
    words: str
    station: str
    fields: dict[str, Any] = Field(description="a JSON Schema")


def _sent(kind: ReadingKind) -> Any:
    """Return the schema of one kind of reading: fields as in a job file, and a token."""
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
