"""The address entries are sent to, one for each build.

It answers with their outcomes and the changed parts of the page.
"""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect, JsonResponse
from django.http.request import RawPostDataException
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST

from mockup.base.faults import FaultsError, message_of
from web.builds.append_entries import append_entries
from web.builds.models import Build
from web.builds.services import locked
from web.entry.sent_entries import SentBatch, batch_in, form_at, sent_of
from web.page.answers import changed_parts
from web.page.build_page import BuildPage
from web.shops.access import member_writes, person_of


@require_POST
@never_cache
@member_writes
def take_entries(request: HttpRequest, build_id: int) -> HttpResponse:
    """Write the entries of one build, each once and in order. Answers 400 to an invalid batch."""
    try:
        with locked(Build(pk=build_id)) as now:
            build_page = BuildPage(now)
            batch = batch_in(_body(request))
            if batch.person and batch.person != str(person_of(request).pk):
                return HttpResponse(
                    "Another person is signed in now: these readings wait for the person who typed them.", status=401
                )
            lines = [sent_of(line, build_page, timezone.now()) for line in batch.entries]
            fates = append_entries(now, lines, person_of(request))
    except Build.DoesNotExist:
        raise Http404 from None
    except FaultsError as error:
        return JsonResponse({"why": message_of(error)}, status=400)
    build_page.refresh()
    fates_data = [{"token": str(fate.token), "why": fate.why} for fate in fates]
    return JsonResponse({"fates": fates_data, "page": _page(request, batch, build_page)})


@require_POST
@member_writes
def old_entries(_request: HttpRequest, build_id: int) -> HttpResponse:
    """Redirect a page that was open during an update to the new address, body included."""
    return HttpResponseRedirect(reverse("entries", args=[build_id]), preserve_request=True)


def _body(request: HttpRequest) -> bytes:
    try:
        return request.body
    except RawPostDataException:
        return b""  # a form with files, without entries


def _page(request: HttpRequest, batch: SentBatch, build_page: BuildPage) -> dict[str, Any] | None:
    """Return the changed parts of the open page; None where another build is open."""
    found = form_at(batch.page, build_page.build.pk)
    if found is None:
        return None
    form, query = found
    request.GET = query  # type: ignore[assignment]  # the page that is answered for is the one that sent the lines
    request.path = request.path_info = batch.page.partition("?")[0]
    request.META["QUERY_STRING"] = batch.page.partition("?")[2]
    return changed_parts(request, build_page, form.station, form.parts(request, build_page, {}))
