"""Lines as a page sends them: where each was typed, its text, what was in hand, and how long ago that was."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial
from typing import Annotated, Any
from uuid import UUID

from django.http import QueryDict
from django.urls import Resolver404, resolve
from pydantic import BaseModel, Field, ValidationError

from bench.builds.lines import Sent
from bench.entry.sheets import SHEETS, Sheet
from bench.entry.taking import NO_SUCH_FIELD
from bench.page.bench import Bench
from bench.page.entering import LONGEST_TYPED
from mockup.faults import Fault, FaultsError, refuse
from mockup.quantity.value import DeckSign, Unit

MOST_AT_ONCE = 100
LONGEST_WAIT = timedelta(days=60)
"""A line may wait this long on a device; one that says it waited longer was typed then at the latest."""
Short = Annotated[str, Field(max_length=400)]


class Line(BaseModel):
    """One line: ``page`` and ``field`` say where it was typed, ``hand`` what else the sheet said then.

    ``unit`` and ``sign`` are those of the page, ``mockup`` the letter it belongs to, ``age_ms`` how long ago it was
    typed [ms] by the clock of the device, which may be wrong by hours.
    """

    token: UUID
    page: Short
    field: Short
    text: Annotated[str, Field(max_length=2000)]
    hand: dict[Short, Short] = Field(default_factory=dict, max_length=40)
    mockup: Annotated[str, Field(max_length=4)] = ""
    unit: Unit
    sign: DeckSign = DeckSign.DOWN_POSITIVE
    age_ms: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0


class Batch(BaseModel):
    """The lines of one build that wait on a device, in the order they were typed.

    ``page`` is the one that is open, ``person`` the number of the person who typed them.
    """

    lines: Annotated[Sequence[Line], Field(max_length=MOST_AT_ONCE)]
    person: Annotated[str, Field(max_length=20)] = ""
    page: Short = ""


@dataclass(frozen=True, slots=True)
class Told:
    """What a line's page was asked for and told, as the sheets read it."""

    GET: Any
    POST: Any


def batch_in(body: bytes) -> Batch:
    """Return the batch that a request's body holds. Raises FaultsError where it holds none."""
    # No database keeps a NUL, and nobody can type one.
    text = body.replace(b"\x00", b"").replace(b"\\u0000", b"")
    try:
        return Batch.model_validate_json(text)
    except ValidationError as error:
        raise FaultsError(
            Fault(".".join(map(str, found["loc"])), found["msg"]) for found in error.errors(include_url=False)
        ) from error


def sheet_at(address: str, build_id: int) -> tuple[Sheet, QueryDict] | None:
    """Return the sheet at an address of a build, and what the address asks for; None where there is none."""
    path, _, query = address.partition("?")
    try:
        found = resolve(path)
    except Resolver404:
        return None
    sheet = SHEETS.get(found.url_name or "")
    return (sheet, QueryDict(query)) if sheet and found.kwargs.get("build_id") == build_id else None


def sent_of(line: Line, bench: Bench, now: datetime) -> Sent:
    """Return a line as the log takes it; it is read when its turn comes."""
    waited = min(timedelta(milliseconds=min(line.age_ms, LONGEST_WAIT.total_seconds() * 1000)), LONGEST_WAIT)
    return Sent(line.token, line.text, now - waited, partial(_read, line, bench))


def _read(line: Line, bench: Bench) -> Any:
    """Return the piece of the core that a line makes. Raises LengthError or FaultsError."""
    text = line.text.strip()
    too_long = f"At most {LONGEST_TYPED} characters; this is {len(text):,}."
    refuse([Fault("text", too_long)] if len(text) > LONGEST_TYPED else [])
    found = sheet_at(line.page, bench.build.pk)
    refuse([] if found else [Fault("page", "This page takes no readings now. Open the build and type it there.")])
    assert found is not None
    sheet, query = found
    with bench.typed_as(line.unit, line.sign):
        reader = sheet.readers_of(_told(line, query, bench), bench).get(line.field)
        refuse([] if reader else [Fault("field", NO_SUCH_FIELD)])
        assert reader is not None
        return reader(text)


def _told(line: Line, query: QueryDict, bench: Bench) -> Told:
    asked = query.copy()
    if line.mockup:
        gone = line.mockup not in {mockup.letter for mockup in bench.mockups}
        refuse([Fault("mockup", f"There is no mock-up {line.mockup} any more.")] if gone else [])
        asked["mockup"] = line.mockup
    posted: Mapping[str, str] = {**line.hand, line.field: line.text}
    told = QueryDict(mutable=True)
    told.update(posted)
    return Told(asked, told)
