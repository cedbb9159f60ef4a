"""Headers, cookies and bodies that no browser sends; what is logged and kept."""

import logging
import sys

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_scopes import scopes_disabled

from tests import making_pictures
from tests import making_rows as making
from web.builds.customer_links import make_link
from web.builds.models import SheetLink
from web.page.errors import JsonLines
from web.sheets.models import PrintedSheet
from web.shops import bodies, passes
from web.shops.models import Pass, Person, ProgramKey
from web.shops.program_keys import make_key

NASTY = [
    *("\x00", "a\x00b", "\r\nX: y", "ÿ" * 20, "'; DROP TABLE", "x" * 20_000, "http://[", "%00", "\x7f"),
    *('"\\000"', "🙂".encode().decode("latin-1"), "\xff\xfe"),  # as a server hands bytes on
]
HEADERS = [
    *("Accept", "Accept-Encoding", "Accept-Language", "Authorization", "Content-Language", "If-Modified-Since"),
    *(
        "If-None-Match",
        "Origin",
        "Range",
        "Referer",
        "User-Agent",
        "X-CSRFToken",
        "X-Forwarded-For",
        "X-Requested-With",
    ),
    *("X-Forwarded-Proto", "HX-Request", "HX-Current-URL", "HX-Target", "HX-Trigger", "HX-Boosted", "HX-Prompt"),
]
COOKIES = ["sessionid", "csrftoken", "messages", "device", "anything"]


@pytest.fixture
def asks(member):
    """Clients as they come: somebody, and nobody."""
    signed_in = Client(raise_request_exception=False)
    signed_in.force_login(member)
    return [signed_in, Client(raise_request_exception=False)]


@pytest.mark.parametrize("nasty", NASTY)
def test_no_header_and_no_cookie_is_a_fault_of_ours(asks, settings, nasty):
    settings.PROXIES = ["127.0.0.1"]
    for client in asks:
        for header in HEADERS:
            for address in ("/", "/sign-in/", "/api/builds", "/api/gauge"):
                assert client.get(address, headers={header: nasty}).status_code < 500, (header, address)
            assert client.post("/sign-in/", {"username": "x"}, headers={header: nasty}).status_code < 500, header
    for name in COOKIES:
        client = Client(raise_request_exception=False)
        client.cookies[name] = nasty
        for address in ("/", "/sign-in/", "/me/"):
            assert client.get(address).status_code < 500, (name, address)


def test_a_cookie_with_a_nul_as_a_browser_quotes_it_is_nobodys(db):
    for cookie in (r'sessionid="\000"', r'sessionid="a\000b"; csrftoken="\000"', 'sessionid="\\200\\377"'):
        answer = Client(raise_request_exception=False).get("/", headers={"Cookie": cookie})
        assert answer.status_code == 302, cookie


def test_a_stranger_sends_a_form_and_no_file(bench, settings):
    large = SimpleUploadedFile("large.jpg", b"x" * (bodies.MOST_OF_A_STRANGER + 1))
    for address in ("/sign-in/", reverse("import")):
        answer = Client().post(address, {"file": large})
        assert (answer.status_code, "Too much at once" in answer.content.decode()) == (413, True)
        large.seek(0)
    assert bench.post(reverse("import"), {"file": large}).status_code != 413
    assert Client().post("/sign-in/", data="x", content_type="text/plain", CONTENT_LENGTH="many").status_code == 413


def test_a_shops_pages_are_kept_nowhere(bench, whole, viewer):
    for name in ("builds", "shelf", "memory", "me", "glossary"):
        assert "no-store" in bench.get(reverse(name))["Cache-Control"], name
    for name in ("verdict", "clay", "put-right", "history", "export", "report-txt", "pictures"):
        assert "no-store" in bench.get(reverse(name, args=[whole.pk]))["Cache-Control"], name


def test_a_picture_is_asked_for_each_time_and_sent_once(bench, stranger, whole):
    bench.post(reverse("pictures", args=[whole.pk]), {"pictures": making_pictures.upload()})
    with scopes_disabled():
        picture = whole.pictures.get()
    address = reverse("picture", args=[whole.pk, picture.pk])
    first = bench.get(address)
    assert first["Cache-Control"] == "private, no-cache"
    again = bench.get(address, headers={"If-None-Match": first["ETag"]})
    assert (again.status_code, again.content) == (304, b"")
    small = bench.get(reverse("picture-small", args=[whole.pk, picture.pk]))
    assert small["ETag"] != first["ETag"]
    assert stranger.get(address, headers={"If-None-Match": first["ETag"]}).status_code == 404


def test_a_links_pdf_is_set_once_whatever_is_asked_after_it(member, whole):
    with scopes_disabled():
        token = make_link(whole, member, 30)
    address = reverse("shown-pdf", args=[token])
    for query in ("", "?a=1", "?a=2", "?" + "x" * 500):
        assert Client().get(address + query).status_code in (200, 202)
    with scopes_disabled():
        assert PrintedSheet.objects.count() == 1


def test_links_keys_and_invitations_end_with_their_makers_access(whole):
    owner, wilfred = (making.person(name, role=Person.Role.OWNER) for name in ("ottoline", "wilfred"))
    client = Client()
    client.force_login(owner)
    with scopes_disabled():
        token = make_link(whole, wilfred, 30)
    key = make_key(wilfred, "caliper script", writes=True)
    invitation = passes.issue(Pass.Kind.JOIN, shop=wilfred.shop, role="member", by=wilfred)
    shown, welcome = reverse("shown-sheet", args=[token]), reverse("welcome", args=[invitation])
    asked = {"headers": {"Authorization": f"Bearer {key}"}}
    stranger = Client()
    assert [stranger.get(shown).status_code, stranger.get(welcome).status_code] == [200, 200]
    assert stranger.get("/api/builds", **asked).status_code == 200
    client.post(reverse("people"), {"end": wilfred.pk})
    for _ in range(2):
        assert [stranger.get(shown).status_code, stranger.get(welcome).status_code] == [410, 410]
        assert stranger.get("/api/builds", **asked).status_code == 401
        client.post(reverse("people"), {"give-back": wilfred.pk})  # what ended stays ended
    with scopes_disabled():
        assert not SheetLink.objects.filter(ended_at=None, ends_at__gt=timezone.now()).exists()
    assert not ProgramKey.objects.filter(ended=None).exists()


def test_an_invitation_ends_when_its_maker_is_owner_no_more(db):
    wilfred = making.person("wilfred", role=Person.Role.OWNER)
    token = passes.issue(Pass.Kind.JOIN, shop=wilfred.shop, role="owner", by=wilfred)
    assert passes.found(token)
    Person.objects.update(role=Person.Role.MEMBER)
    assert passes.found(token) is None


def logged(message, path="/", error=None):
    record = logging.LogRecord("django.request", logging.WARNING, "", 0, message, (), error)
    record.request = None
    return JsonLines().format(record)


def test_no_token_and_nothing_typed_is_logged():
    for word in ("welcome", "shown"):
        assert "s3cret" not in logged(f"Gone: /{word}/s3cret/ of “x”")
        assert "s3cret" not in logged(f'"GET /{word}/s3cret/sheet.pdf"')
    typed = "by hand"
    try:
        try:
            float(typed)
        except ValueError as error:
            raise KeyError(typed) from error
    except KeyError:
        line = logged("Internal Server Error", error=sys.exc_info())
    assert "by hand" not in line
    assert "KeyError" in line
    assert "ValueError" in line


def test_a_request_that_fails_is_logged_without_its_token(db, caplog):
    Client().get("/welcome/s3cret-token/")
    for record in caplog.records:
        assert "s3cret" not in JsonLines().format(record)
    assert caplog.records


def test_what_a_statement_was_refused_for_is_not_in_the_databases_log(db):
    with connection.cursor() as cursor:
        for name, wanted in (
            ("log_min_messages", "log"),
            ("log_min_error_statement", "panic"),
            ("log_error_verbosity", "terse"),
        ):
            cursor.execute(f"SHOW {name}")
            assert cursor.fetchone() == (wanted,)
