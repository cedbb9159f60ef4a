"""The glossary page: what the trade's terms mean, each with its own anchor."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.words.glossary import in_order


@require_GET
def glossary(request: HttpRequest) -> HttpResponse:
    """Show every term."""
    return render(request, "page/glossary.html", {"terms": in_order()})
