"""Every link of a shop's pages, followed."""

import re
from collections import deque
from urllib.parse import urljoin, urlsplit

from django.urls import reverse

OTHERWISE = ("/static/", "sign-out", ".pdf")


def links(address, html):
    found = re.findall(r'href="([^"]+)"', html.replace("&amp;", "&"))
    for one in found:
        parts = urlsplit(urljoin(address, one))
        if parts.scheme != "data" and not parts.netloc and not any(word in parts.path for word in OTHERWISE):
            yield parts.path + (f"?{parts.query}" if parts.query else "")


def kind_of(address):
    """Other cylinders and mock-ups show the same page: one of each build is enough."""
    return re.sub(r"(cylinder|mockup|valve|kept)=[^&]+", r"\1", address)


def walked(client, wrong_with=lambda _page: None, most=10_000):
    """What is wrong at each address, by status or by ``wrong_with`` of its HTML."""
    ahead, seen, troubles, kinds = deque([reverse("builds")]), [], {}, set()
    while ahead and len(seen) < most:
        address = ahead.popleft()
        if kind_of(address) in kinds:
            continue
        kinds.add(kind_of(address))
        seen.append(address)
        answer = client.get(address)
        if answer.status_code != 200:
            troubles[address] = answer.status_code
        elif answer["Content-Type"].startswith("text/html"):
            page = answer.content.decode()
            if found := wrong_with(page):
                troubles[address] = found
            ahead.extend(links(address, page))
        elif answer.streaming:
            list(answer)
    return troubles, seen
