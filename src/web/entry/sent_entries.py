"""Entries as a page sends them: place, text, tool in hand, and age."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial
from typing import Annotated, Any
from uuid import UUID

from django.http import QueryDict
from django.urls import Resolver404, resolve
from pydantic import AliasChoices, BaseModel, Field, ValidationError

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.quantity.value import DeckSign, Unit
from web.builds.append_entries import Sent
from web.entry.entry_forms import ENTRY_FORMS, EntryForm
from web.entry.without_script import NO_SUCH_FIELD
from web.page.build_page import BuildPage
from web.page.read_fields import LONGEST_TYPED

MOST_AT_ONCE = 100
LONGEST_WAIT = timedelta(days=60)
"""An entry may wait this long on a device; a longer wait counts as this."""
Short = Annotated[str, Field(max_length=400)]


class SentEntry(BaseModel):
    """One entry: ``page`` and ``field`` of its typing, ``hand`` the form's other values.

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


class SentBatch(BaseModel):
    """The entries of one build waiting on a device, in the order they were typed.

    ``page`` is the open page, ``person`` the number of the person who typed them.
    """

    # Pages that were open during an update still send "lines".
    entries: Annotated[
        Sequence[SentEntry], Field(max_length=MOST_AT_ONCE, validation_alias=AliasChoices("entries", "lines"))
    ]
    person: Annotated[str, Field(max_length=20)] = ""
    page: Short = ""


@dataclass(frozen=True, slots=True)
class SentForm:
    """Query and form data of an entry's page, as the readers expect them."""

    GET: Any
    POST: Any


def batch_in(body: bytes) -> SentBatch:
    """Return the batch in a request's body. Raises FaultsError where it is invalid."""
    # No database stores a NUL, and nobody can type one.
    text = body.replace(b"\x00", b"").replace(b"\\u0000", b"")
    try:
        return SentBatch.model_validate_json(text)
    except ValidationError as error:
        raise FaultsError(
            Fault(".".join(map(str, found["loc"])), found["msg"]) for found in error.errors(include_url=False)
        ) from error


def form_at(address: str, build_id: int) -> tuple[EntryForm, QueryDict] | None:
    """Return the entry form at an address of a build, and the address's query, or None."""
    path, _, query = address.partition("?")
    try:
        found = resolve(path)
    except Resolver404:
        return None
    form = ENTRY_FORMS.get(found.url_name or "")
    return (form, QueryDict(query)) if form and found.kwargs.get("build_id") == build_id else None


def sent_of(line: SentEntry, build_page: BuildPage, now: datetime) -> Sent:
    """Return an entry for the log; it is read when its turn comes."""
    waited = min(timedelta(milliseconds=min(line.age_ms, LONGEST_WAIT.total_seconds() * 1000)), LONGEST_WAIT)
    return Sent(line.token, line.text, now - waited, partial(_read, line, build_page))


def _read(line: SentEntry, build_page: BuildPage) -> Any:
    """Return the piece of the core that an entry makes. Raises LengthError or FaultsError."""
    text = line.text.strip()
    too_long = f"At most {LONGEST_TYPED} characters; this is {len(text):,}."
    refuse([Fault("text", too_long)] if len(text) > LONGEST_TYPED else [])
    found = form_at(line.page, build_page.build.pk)
    refuse([] if found else [Fault("page", "This page takes no readings now. Open the build and type it there.")])
    assert found is not None
    form, query = found
    with build_page.typed_as(line.unit, line.sign):
        reader = form.readers_of(_sent_form(line, query, build_page), build_page).get(line.field)
        refuse([] if reader else [Fault("field", NO_SUCH_FIELD)])
        assert reader is not None
        return reader(text)


def _sent_form(line: SentEntry, query: QueryDict, build_page: BuildPage) -> SentForm:
    asked = query.copy()
    if line.mockup:
        gone = line.mockup not in {mockup.letter for mockup in build_page.mockups}
        refuse([Fault("mockup", f"There is no longer a mock-up {line.mockup}.")] if gone else [])
        asked["mockup"] = line.mockup
    posted: Mapping[str, str] = {**line.hand, line.field: line.text}
    form_data = QueryDict(mutable=True)
    form_data.update(posted)
    return SentForm(asked, form_data)
