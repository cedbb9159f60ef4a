"""The glossary: what the trade's terms mean, each at its own place of the page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.help.glossary import in_order


@require_GET
def glossary(request: HttpRequest) -> HttpResponse:
    """Show every term."""
    return render(request, "stand/glossary.html", {"terms": in_order()})
