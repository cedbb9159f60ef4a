"""Every link of the demo, followed: each page is there and speaks to people."""

import re

import pytest
from django.core.management import call_command
from django.test import Client
from django_scopes import scopes_disabled

from tests.web import words
from tests.web.walking import walked
from web.shops.models import Person

UNFINISHED = re.compile(
    r"\b(None|nan|NaN|inf|undefined|Decimal|Traceback)\b|\{\{|\{%|%\}|&lt;[A-Z]\w+\.|−0(\.0+)?(?![.\d])|\.\."
)
"""What no reader should meet: values that are none, names of types, marks of templates, a minus before nothing."""

LONG = re.compile(r'value="[^"]*\d\.\d{6,}')
"""A number in a field as only a program would write it."""


@pytest.fixture
def visitor(db):
    call_command("load_demo")
    client = Client()
    with scopes_disabled():
        client.force_login(Person.objects.get(username="ottoline"))
    return client


def unfinished(page):
    found = UNFINISHED.search(words(page)) or LONG.search(page)
    return found and found.group()


def test_every_link_of_the_demo_leads_to_a_page_that_says_only_what_is_meant(visitor):
    troubles, seen = walked(visitor, unfinished)
    assert troubles == {}
    assert len(seen) > 100


@pytest.mark.parametrize(
    "said",
    ["margin None", "nan mm", "{{ unit }}", "&lt;Side.INTAKE: 1&gt;", "−0.0 thou", "Read it again.."],
)
def test_the_check_can_fail(said):
    assert UNFINISHED.search(said)
    assert LONG.search('<input value="0.000984251968 in">')
    assert not UNFINISHED.search("Intake 3 none set, −0.05 and information… 1.50.")
