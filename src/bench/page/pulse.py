"""Whether somebody wrote into a build since a page of it was opened: asked every few seconds, and cheap to answer."""

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET

from bench.builds.models import Summary


@require_GET
def pulse(request: HttpRequest, build_id: int) -> HttpResponse:
    """204 while nothing is new; else what there is now, and who wrote last. One query of its own."""
    now: Summary = get_object_or_404(Summary.objects.select_related("touched_by"), pk=build_id)
    seen, by = now.touched_at.isoformat(), now.touched_by
    if request.GET.get("seen") == seen:
        return HttpResponse(status=204)
    return JsonResponse({"seen": seen, "by": by.shown_name if by else ""})
