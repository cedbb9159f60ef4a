"""The application's addresses, and a bare view of any size: no page can be faster."""

from django.http import HttpRequest, HttpResponse
from django.urls import include, path


def floor(request: HttpRequest, size: int) -> HttpResponse:
    """Answer with so many bytes on the wire; the person is looked up, as on every page."""
    assert request.user.pk
    return HttpResponse("x" * size, headers={"Content-Encoding": "identity"})


urlpatterns = [path("floor/<int:size>/", floor), path("", include("web.urls"))]
