"""The API: builds, reports and tables to read, readings to write, as pages do.

Authentication and the shop's scope are handled before (``shops/program_keys.py``).
"""

from datetime import timedelta
from decimal import Decimal
from typing import Annotated, Any

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_GET
from ninja import Field, NinjaAPI, Status
from ninja.errors import HttpError, ValidationError
from ninja.parser import Parser
from ninja.security import HttpBearer

from mockup import __version__
from mockup.base.faults import Fault, FaultsError, refuse
from mockup.evaluate import evaluate
from mockup.formats.job_read import faults_in, read_job
from mockup.formats.job_write import job_data, part_data
from mockup.formats.report_json import report_data
from mockup.job import Job, misplaced, points_at_nothing
from mockup.quantity.gauge_lines import with_unit
from mockup.readings.kinds import READING_KINDS
from web.builds import services
from web.builds.assemble import assemble
from web.builds.entry_kinds import is_reading
from web.builds.models import Build, Entry
from web.builds.models.build import UnreadableError
from web.builds_list.search import ORDERS, STATES, Pages, asked_of
from web.exchange.import_job import build_from
from web.exchange.uploads import decoded
from web.page.build_page import build_page_or_404
from web.programs.feed import receive
from web.programs.shapes import (
    SENT,
    BuildOut,
    BuildsOut,
    FaultsOut,
    GaugeIn,
    GaugeOut,
    KindOut,
    ReadingOut,
    ReadingsIn,
    ReadingsOut,
    StrikeIn,
    Struck,
    Written,
)
from web.shops.access import person_of

LARGEST_VALUE = 1e6
SAYS = """Builds, reports and readings of one shop, for programs.

A key is made on the page of the person the program acts for, and shown as `Authorization: Bearer KEY`. What it writes
is in the log as "by NAME of PERSON". Lengths are numbers in millimetres, or text with its unit, as "0.112 in".
Nothing of another shop is there: it answers 404. What is wrong comes back as a list of faults, each with its path."""


class _Key(HttpBearer):
    """Only described here: the middleware has checked it already."""

    def authenticate(self, request: HttpRequest, token: str) -> Any:  # noqa: ARG002, ninja's signature
        """Return the key that the middleware found."""
        return getattr(request, "program_key", None)


class _Parser(Parser):
    """JSON without a NUL, which no database stores and nobody can type."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Return the body as data. Raises ValueError, reported as an unreadable body."""
        if b"\x00" in request.body or b"\\u0000" in request.body:
            raise ValueError("a text in it holds a NUL")
        return super().parse_body(request)


api = NinjaAPI(
    title="Astute Mole",
    version=__version__,
    description=SAYS,
    docs_url=None,
    openapi_url=None,
    auth=_Key(),
    parser=_Parser(),
)
WRONG = {400: FaultsOut, 404: FaultsOut, 422: FaultsOut, 401: FaultsOut, 403: FaultsOut}
JOB_FILE: dict[str, Any] = {
    "requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}
}
READS = {404: FaultsOut, 401: FaultsOut, 422: FaultsOut}


def _faults(faults: Any, status: int) -> HttpResponse:
    told = [{"path": fault.path, "message": fault.message} for fault in faults]
    return api.create_response(HttpRequest(), {"faults": told}, status=status)


@api.exception_handler(FaultsError)
def _refused(request: HttpRequest, error: Any) -> HttpResponse:  # noqa: ARG001
    return _faults(error.faults, 422)


@api.exception_handler(ValidationError)
def _not_understood(request: HttpRequest, error: Any) -> HttpResponse:  # noqa: ARG001
    found = faults_in(error.errors)
    return _faults((Fault(_plain(fault.path), fault.message) for fault in found), 422)


@api.exception_handler(UnreadableError)
def _unreadable(request: HttpRequest, error: Any) -> HttpResponse:  # noqa: ARG001
    return _faults([Fault("build", f"This build cannot be read: {error}")], 422)


@api.exception_handler(Http404)
def _gone(request: HttpRequest, error: Any) -> HttpResponse:  # noqa: ARG001
    return _faults([Fault("", "There is no such thing in this shop.")], 404)


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: Any) -> HttpResponse:  # noqa: ARG001
    return _faults([Fault("", str(error))], error.status_code)


def _plain(path: str) -> str:
    """Return a path as the sender wrote it, without our own parameter names."""
    parts = [part for part in path.split(".") if part not in ("body", "payload", "query", "path", *SENT)]
    return ".".join(parts)


def _may_write(request: HttpRequest) -> str:
    """Return whose name is recorded with what is written. Raises HttpError for a read-only key."""
    key = getattr(request, "program_key", None)
    if key is None or not key.writes or not key.person.may_write:
        raise HttpError(403, "This key only reads.")
    return str(key)


@api.get("/builds", response={200: BuildsOut, **READS}, operation_id="builds", summary="The shop's builds")
def builds(
    request: HttpRequest, q: str = "", state: str = "", order: str = "", page: Annotated[int, Field(ge=1)] = 1
) -> Any:
    """Search by words, filter by state, sort by ``tight``, ``name``, ``begun`` or last change."""
    refused = [Fault("state", f"One of {', '.join(filter(None, STATES))}.")] if state not in STATES else []
    refused += [Fault("order", f"One of {', '.join(filter(None, ORDERS))}.")] if order not in ORDERS else []
    if refused:
        raise FaultsError(refused)
    asked = asked_of({"q": q, "state": state, "order": order, "page": str(page)})
    pages = Pages(asked, person_of(request))
    if page > pages.num_pages:
        raise Http404
    found = pages.page(page)
    return {"builds": [_build(request, one) for one in found.object_list], "page": page, "pages": pages.num_pages}


def _build(request: HttpRequest, build: Build) -> BuildOut:
    summary = build.summary
    tightest = summary.card.get("tightest")
    return BuildOut(
        id=build.pk,
        name=build.name,
        subtitle=build.subtitle,
        state=summary.state,
        touched_at=summary.touched_at,
        put_away=build.put_away_at is not None,
        tightest=f"{tightest['label']}: {tightest['figure']}" if tightest else None,
        address=request.build_absolute_uri(reverse("build", args=[build.pk])),
    )


@api.post("/builds", response={201: BuildOut, **WRONG}, operation_id="begin_build", openapi_extra=JOB_FILE)
def begin_build(request: HttpRequest) -> Any:
    """Make a new build from a job file (docs/job-file.md) in the body."""
    _may_write(request)
    return Status(201, _build(request, build_from(read_job(decoded(request.body)), person_of(request))))


@api.get("/builds/{int:build_id}", response={200: BuildOut, **READS}, operation_id="build", summary="One build")
def one_build(request: HttpRequest, build_id: int) -> Any:
    """Return one build in short."""
    return _build(request, build_page_or_404(build_id).build)


@api.get("/builds/{int:build_id}/report", response={200: dict[str, Any], **READS}, operation_id="report")
def report(request: HttpRequest, build_id: int) -> Any:  # noqa: ARG001
    """Return the verdict with every check, as `./mole check --format json` prints it."""
    return report_data(build_page_or_404(build_id).report)


@api.get("/builds/{int:build_id}/job", response={200: dict[str, Any], **READS}, operation_id="job")
def job(request: HttpRequest, build_id: int) -> Any:  # noqa: ARG001
    """Return the build as a complete job file."""
    return job_data(assemble(build_page_or_404(build_id).build))


@api.get("/builds/{int:build_id}/readings", response={200: ReadingsOut, **READS}, operation_id="readings")
def readings(request: HttpRequest, build_id: int) -> Any:  # noqa: ARG001
    """Return every reading, struck out or not."""
    found = assemble(build_page_or_404(build_id).build)
    return {"readings": [_reading(one, found) for one in found.readings]}


def _reading(reading: Any, found: Job) -> ReadingOut:
    fields = part_data(reading, found.unit)
    for kept in ("key", "record"):
        fields.pop(kept, None)
    record = reading.record
    kind = READING_KINDS.of(type(reading)).name
    return ReadingOut(
        key=reading.key, kind=kind, fields=fields, typed=record.typed, by=record.by, at=record.at, struck=record.struck
    )


@api.post("/builds/{int:build_id}/readings", response={201: Written, **WRONG}, operation_id="write_readings")
def write_readings(request: HttpRequest, build_id: int, payload: ReadingsIn) -> Any:
    """Write readings into the log, all or none; one with a token is written once."""
    by_program, by = _may_write(request), person_of(request)
    build_page = build_page_or_404(build_id)
    keys: list[str] = []
    with services.locked(build_page.build) as now:
        letters = {mockup.letter for mockup in build_page.mockups}
        faults = []
        for at, sent in enumerate(payload.readings):
            reading = sent.core(key="")
            wrong = misplaced(reading, now.engine) + points_at_nothing(reading, letters, build_page.instruments)
            faults += [Fault(f"readings.{at}.{fault.path}", fault.message) for fault in wrong]
            if not faults:
                keys.append(_write(now, reading, sent, by, by_program))
        if faults:
            raise FaultsError(faults)
    build_page.refresh()
    return Status(201, {"keys": keys, "state": str(build_page.report.verdict)})


def _write(build: Build, reading: Any, sent: Any, by: Any, by_program: str) -> str:
    typed = reading.record.typed
    read = (reading.record.by or by_program, reading.record.at)
    entry = services.write(build, reading, by, typed=typed, token=sent.token, read=read)
    if entry is None:
        known = Entry.objects.get(by=by, token=sent.token)
        elsewhere = Fault("token", f"This token was used before, for a reading of {known.build}.")
        refuse([elsewhere] if known.build_id != build.pk else [])
        return known.key
    return entry.key


@api.post(
    "/builds/{int:build_id}/readings/{key}/strike", response={200: Struck, **WRONG}, operation_id="strike_reading"
)
def strike_reading(request: HttpRequest, build_id: int, key: str, payload: StrikeIn) -> Any:
    """Strike a reading out, with the reason.

    It stays in the log; striking twice changes nothing.
    """
    by_program, by = _may_write(request), person_of(request)
    kind, _, number = key.rpartition("-")
    if not number.isdecimal() or len(number) > 18 or not is_reading(kind):
        raise Http404
    entry = get_object_or_404(Entry, build=build_page_or_404(build_id).build, kind=kind, pk=int(number))
    services.strike(entry, by, f"{payload.reason} ({by_program})"[: services.LONGEST_REASON])
    entry.refresh_from_db()
    return {"key": key, "struck": entry.struck_reason}


@api.post("/gauge", response={201: GaugeOut, **WRONG}, operation_id="gauge", summary="A reading of a gauge")
def gauge(request: HttpRequest, payload: GaugeIn) -> Any:
    """Send a reading to the field that has the cursor, or to the tray (docs/gauges.md)."""
    _may_write(request)
    value = payload.value if isinstance(payload.value, str) else _digits(payload.value)
    text, age = with_unit(value, payload.unit), timedelta(milliseconds=payload.age_ms)
    found, waiting = receive(person_of(request), payload.token, text, payload.gauge, age)
    return Status(201, {"token": found.token, "text": found.text, "waiting": waiting})


def _digits(value: float) -> str:
    """Return a number as a person would type it.

    Raises FaultsError for one that cannot be typed.
    """
    if not abs(value) < LARGEST_VALUE:
        raise FaultsError([Fault("value", "This is not a number a gauge can show.")])
    return f"{Decimal(repr(value)):f}"


@api.get("/kinds", response={200: list[KindOut], 401: FaultsOut}, operation_id="kinds", summary="Kinds of reading")
def kinds(request: HttpRequest) -> Any:  # noqa: ARG001
    """Return every kind of reading, and its fields."""
    return [
        KindOut(kind=kind.name, words=kind.words, station=str(kind.station), fields=SENT[kind.name].model_json_schema())
        for kind in READING_KINDS
        if kind.name in SENT
    ]


@api.post("/judge", response={200: dict[str, Any], **WRONG}, operation_id="judge", openapi_extra=JOB_FILE)
def judge(request: HttpRequest) -> Any:
    """Return the report on a job file in the body; nothing is stored."""
    return report_data(evaluate(read_job(decoded(request.body))))


@login_not_required
@require_GET
def openapi(request: HttpRequest) -> HttpResponse:  # noqa: ARG001
    """Return the OpenAPI description, made from this code; it is public."""
    return JsonResponse(api.get_openapi_schema())
