"""Whose clock the pages show: the person's, else the shop's, else the machine's settings."""

from collections.abc import Callable
from datetime import datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError, available_timezones

from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from bench.shops.models import Person

SECONDS = "seconds"


def zone_of(person: Person) -> ZoneInfo | None:
    """The time zone a person's pages are shown in; nothing where neither they nor their shop said, or it is gone."""
    name = person.time_zone or (person.shop.time_zone if person.shop else "")
    try:
        return ZoneInfo(name) if name else None
    except (ZoneInfoNotFoundError, ValueError):
        return None


def zones() -> list[str]:
    """Every zone by its place, as Europe/Lisbon, and UTC; without the old names for the same."""
    return ["UTC", *sorted(name for name in available_timezones() if name.split("/")[0] in AREAS and "/" in name)]


AREAS = {"Africa", "America", "Antarctica", "Arctic", "Asia", "Atlantic", "Australia", "Europe", "Indian", "Pacific"}


def stamp(at: datetime) -> str:
    """A moment as the person's clock shows it, in ISO 8601 with its distance from UTC."""
    return timezone.localtime(at).isoformat(timespec=SECONDS)


def zone_words() -> str:
    """What the clock of the page is called, as in UTC or Europe/Lisbon."""
    return timezone.get_current_timezone_name()


class ClockMiddleware:
    """Runs the request by the clock of the signed-in person."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        person = getattr(request, "user", None)
        # Override puts the clock back even where the answer raises: threads are used again by others.
        with timezone.override(zone_of(person) if isinstance(person, Person) else None):
            return self.get_response(request)
