"""Every link of the demo, followed: each page is there, and none shows what only a program would say."""

import re
from collections import deque
from urllib.parse import urljoin, urlsplit

import pytest
from django.core.management import call_command
from django.test import Client
from django.urls import reverse
from django_scopes import scopes_disabled

from bench.shops.models import Person
from tests.web import words

OTHERWISE = ("/static/", "sign-out", ".pdf")
UNFINISHED = re.compile(
    r"\b(None|nan|NaN|inf|undefined|Decimal|Traceback)\b|\{\{|\{%|%\}|&lt;[A-Z]\w+\.|−0(\.0+)?(?![.\d])|\.\."
)
"""What no reader should meet: values that are none, names of types, marks of templates, a minus before nothing."""

LONG = re.compile(r'value="[^"]*\d\.\d{6,}')
"""A number in a field as only a program would write it."""


def links(address, html):
    found = re.findall(r'href="([^"]+)"', html.replace("&amp;", "&"))
    for one in found:
        parts = urlsplit(urljoin(address, one))
        if parts.scheme != "data" and not parts.netloc and not any(word in parts.path for word in OTHERWISE):
            yield parts.path + (f"?{parts.query}" if parts.query else "")


def kind_of(address):
    """Other cylinders and mock-ups show the same page with other figures: one of each build is enough."""
    return re.sub(r"(cylinder|mockup|valve|kept)=[^&]+", r"\1", address)


@pytest.fixture
def visitor(db):
    call_command("load_demo")
    client = Client()
    with scopes_disabled():
        client.force_login(Person.objects.get(username="ottoline"))
    return client


def test_every_link_of_the_demo_leads_to_a_page_that_says_only_what_is_meant(visitor):
    ahead, seen, troubles = deque([reverse("stand")]), set(), {}
    while ahead:
        address = ahead.popleft()
        if kind_of(address) in seen:
            continue
        seen.add(kind_of(address))
        answer = visitor.get(address)
        if answer.status_code != 200:
            troubles[address] = answer.status_code
        elif answer["Content-Type"].startswith("text/html"):
            page = answer.content.decode()
            if found := UNFINISHED.search(words(page)) or LONG.search(page):
                troubles[address] = found.group()
            ahead.extend(links(address, page))
        elif answer.streaming:
            list(answer)
    assert troubles == {}
    assert len(seen) > 100


@pytest.mark.parametrize(
    "said",
    ["daylight None", "nan mm", "{{ unit }}", "&lt;Side.INTAKE: 1&gt;", "−0.0 thou", "Read it again.."],
)
def test_the_check_can_fail(said):
    assert UNFINISHED.search(said)
    assert LONG.search('<input value="0.000984251968 in">')
    assert not UNFINISHED.search("Intake 3 none set, −0.05 and information… 1.50.")
