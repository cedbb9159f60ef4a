"""Whether somebody wrote into a build since a page of it was opened: asked every few seconds, and cheap to answer."""

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET

from bench.builds.models import Build, Entry
from bench.builds.reports import seen


@require_GET
def pulse(request: HttpRequest, build_id: int) -> HttpResponse:
    """204 while nothing is new; else what there is now, and who wrote last."""
    build = get_object_or_404(Build, pk=build_id)
    now = seen(build)
    if request.GET.get("seen") == now:
        return HttpResponse(status=204)
    last = Entry.objects.filter(build=build).prefetch_related("by").last()
    return JsonResponse({"seen": now, "by": last.by.shown_name if last else ""})
