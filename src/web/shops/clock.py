"""The time zone of pages: the person's, else the shop's, else the machine's setting."""

from collections.abc import Callable
from datetime import datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError, available_timezones

from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from web.shops.models import Person

SECONDS = "seconds"


def zone_of(person: Person) -> ZoneInfo | None:
    """Return the time zone of a person's pages, or None if none is set that exists."""
    name = person.time_zone or (person.shop.time_zone if person.shop else "")
    try:
        return ZoneInfo(name) if name else None
    except (ZoneInfoNotFoundError, ValueError):
        return None


def zones() -> list[str]:
    """Return every zone by its place, as Europe/Lisbon, and UTC, without deprecated names."""
    return ["UTC", *sorted(name for name in available_timezones() if name.split("/")[0] in AREAS and "/" in name)]


AREAS = {"Africa", "America", "Antarctica", "Arctic", "Asia", "Atlantic", "Australia", "Europe", "Indian", "Pacific"}


def stamp(at: datetime) -> str:
    """Return a time by the person's clock, in ISO 8601 with its offset from UTC."""
    return timezone.localtime(at).isoformat(timespec=SECONDS)


def zone_words() -> str:
    """Return the name of the page's clock, as UTC or Europe/Lisbon."""
    return timezone.get_current_timezone_name()


class ClockMiddleware:
    """Run the request in the time zone of the signed-in person."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        person = getattr(request, "user", None)
        # Override restores the zone even where the view raises; threads are reused.
        with timezone.override(zone_of(person) if isinstance(person, Person) else None):
            return self.get_response(request)
