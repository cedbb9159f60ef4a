"""The address a request comes from, as a known proxy states it, and no other party."""

from ipaddress import ip_address

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """Return the client's address.

    For a request from a proxy in ``settings.PROXIES``, the last address in its ``X-Forwarded-For`` that is not such a
    proxy; the addresses before it may be forged.
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
