"""The address lines are sent to: one for each build. It answers with their fates and the changed parts of the page."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.request import RawPostDataException
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from bench.builds.lines import write_lines
from bench.builds.models import Build
from bench.builds.services import locked
from bench.entry.lines import Batch, batch_in, sent_of, sheet_at
from bench.page.bench import Bench
from bench.page.show import changed_parts
from bench.shops.access import member_writes, person_of
from mockup.faults import FaultsError, message_of


@require_POST
@never_cache
@member_writes
def take_lines(request: HttpRequest, build_id: int) -> HttpResponse:
    """Write the lines of one build, each once and in order. Answers 400 to what is no batch of lines."""
    try:
        with locked(Build(pk=build_id)) as now:
            bench = Bench(now)
            batch = batch_in(_body(request))
            if batch.person and batch.person != str(person_of(request).pk):
                return HttpResponse("Somebody else is signed in now: these lines wait for who typed them.", status=401)
            lines = [sent_of(line, bench, timezone.now()) for line in batch.lines]
            fates = write_lines(now, lines, person_of(request))
    except Build.DoesNotExist:
        raise Http404 from None
    except FaultsError as error:
        return JsonResponse({"why": message_of(error)}, status=400)
    bench.refresh()
    told = [{"token": str(fate.token), "why": fate.why} for fate in fates]
    return JsonResponse({"fates": told, "page": _page(request, batch, bench)})


def _body(request: HttpRequest) -> bytes:
    try:
        return request.body
    except RawPostDataException:
        return b""  # a form with files, and no lines


def _page(request: HttpRequest, batch: Batch, bench: Bench) -> dict[str, Any] | None:
    """Return the parts of the open page that are no longer as it has them; None where another build is open."""
    found = sheet_at(batch.page, bench.build.pk)
    if found is None:
        return None
    sheet, query = found
    request.GET = query  # type: ignore[assignment]  # the page that is answered for is the one that sent the lines
    request.path = request.path_info = batch.page.partition("?")[0]
    request.META["QUERY_STRING"] = batch.page.partition("?")[2]
    return changed_parts(request, bench, sheet.station, sheet.parts(request, bench, {}))
