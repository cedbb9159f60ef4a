"""From which address somebody asks: as a proxy that is known says it, and by nobody else's word."""

from ipaddress import ip_address

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """The address of who asks.

    Where a proxy of ``settings.PROXIES`` asks for them, the last address in its ``X-Forwarded-For`` that is no such
    proxy: the addresses before it may be made up.
    """
    here: str = request.META.get("REMOTE_ADDR", "")
    if here not in settings.PROXIES:
        return here
    passed_on = [part.strip() for part in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")]
    theirs = next((address for address in reversed(passed_on) if address not in settings.PROXIES), "")
    try:
        return str(ip_address(theirs))
    except ValueError:
        return here
