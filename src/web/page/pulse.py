"""Whether a build was written to since a page was opened; polled, so it is cheap."""

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET

from web.builds.models import Summary


@require_GET
def pulse(request: HttpRequest, build_id: int) -> HttpResponse:
    """Return 204 while nothing is new, else the present version and who wrote last.

    One query of its own.
    """
    now: Summary = get_object_or_404(Summary.objects.select_related("touched_by"), pk=build_id)
    seen, by = now.touched_at.isoformat(), now.touched_by
    if request.GET.get("seen") == seen:
        return HttpResponse(status=204)
    return JsonResponse({"seen": seen, "by": by.shown_name if by else ""})
