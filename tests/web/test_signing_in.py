"""Signing in: guesses, remembered devices, expiry, second factor, password again."""

import re
import time
from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_otp.oath import TOTP
from django_otp.plugins.otp_static.models import StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from tests import making_rows as making
from tests.web import words
from web.shops import asked_again, devices, session_age
from web.shops.models import Device, Pass, Person, ProgramKey, ShopLine

RIGHT = {"username": "wilfred", "password": "brass-monkey"}
WRONG = RIGHT | {"password": "guess"}
SIGN_IN, STAND = "/sign-in/", "/"


@pytest.fixture
def wilfred(db):
    return making.person("wilfred", role=Person.Role.OWNER)


def sign_in(client, posted=RIGHT, **more):
    return client.post(SIGN_IN, posted | more)


def is_in(client):
    return client.get(STAND).status_code == 200


def guess(times, first=1, client=None):
    """Wrong passwords, seven from each address."""
    return [sign_in(client or Client(REMOTE_ADDR=f"10.0.{first}.{at // 7}"), WRONG) for at in range(times)]


def test_behind_the_proxy_a_guesser_locks_their_own_address_and_nobody_else(wilfred, settings):
    settings.PROXIES = ["127.0.0.1"]
    guesser, other = Client(HTTP_X_FORWARDED_FOR="203.0.113.7"), Client(HTTP_X_FORWARDED_FOR="198.51.100.2")
    guess(9, client=guesser)
    assert sign_in(guesser).status_code == 429
    assert sign_in(other).status_code == 302
    # What a guesser writes into the header themselves stands before what the proxy adds.
    assert sign_in(Client(HTTP_X_FORWARDED_FOR="192.0.2.1, 203.0.113.7")).status_code == 429


def test_nobody_but_a_named_proxy_says_where_somebody_asks_from(wilfred):
    guess(9, client=Client(REMOTE_ADDR="203.0.113.7"))
    assert sign_in(Client(REMOTE_ADDR="203.0.113.7", HTTP_X_FORWARDED_FOR="198.51.100.2")).status_code == 429


@pytest.mark.parametrize("said", ["", "nonsense", "127.0.0.1", "'; DROP TABLE", "1" * 5000])
def test_a_header_that_is_no_address_is_the_proxys_own(wilfred, settings, said):
    settings.PROXIES = ["127.0.0.1"]
    assert sign_in(Client(HTTP_X_FORWARDED_FOR=said), WRONG).status_code == 200


def test_a_name_that_is_guessed_from_many_addresses_is_slowed_down_and_not_locked(wilfred, monkeypatch):
    guess(devices.FREE_TRIES + 4)
    stranger = Client(REMOTE_ADDR="192.0.2.9")
    answer = sign_in(stranger)
    assert "Try again in" in words(answer)
    assert not is_in(stranger)
    later = timezone.now() + timedelta(seconds=devices.LONGEST_WAIT_S)
    monkeypatch.setattr(devices.timezone, "now", lambda: later)
    assert sign_in(stranger).status_code == 302


def test_addresses_that_are_locked_slow_nobody_down(wilfred):
    for address in ("10.1.1.1", "10.1.1.2"):
        guess(12, client=Client(REMOTE_ADDR=address))
    assert sign_in(Client(REMOTE_ADDR="192.0.2.9")).status_code == 302


def test_a_remembered_device_and_who_is_signed_in_are_not_locked_out(wilfred):
    own = Client(REMOTE_ADDR="10.0.0.1")
    assert sign_in(own).status_code == 302
    assert own.cookies["device"]["httponly"]
    guess(9, client=Client(REMOTE_ADDR="10.0.0.1"))
    guess(devices.FREE_TRIES + 4, first=2)
    assert is_in(own)
    own.post("/sign-out/")
    assert sign_in(own).status_code == 302, "from a locked address, with a slowed name"
    assert Device.objects.count() == 1, "it is the same device"


def test_a_device_that_guesses_its_persons_password_is_forgotten(wilfred):
    stolen = Client(REMOTE_ADDR="10.0.0.1")
    sign_in(stolen)
    stolen.post("/sign-out/")
    guess(20, client=stolen)
    assert not Device.objects.exists()
    assert sign_in(stolen).status_code == 429


def test_a_device_is_its_persons_alone(wilfred):
    making.person("agnes")
    own = Client(REMOTE_ADDR="10.0.0.1")
    sign_in(own)
    own.post("/sign-out/")
    for _ in range(9):
        sign_in(own, WRONG, username="agnes")
    assert sign_in(own, username="agnes").status_code == 429


def aged(client, **seconds):
    session = client.session
    for name, ago in seconds.items():
        session[name] = int(time.time()) - ago
    session.save()


def test_a_session_ends_after_thirty_days_however_it_is_used(wilfred):
    client = Client()
    sign_in(client)
    aged(client, begun=29 * 86400)
    assert is_in(client)
    aged(client, begun=30 * 86400 + 60)
    assert not is_in(client)


def test_on_a_shared_device_it_ends_when_it_was_idle_for_twelve_hours(wilfred):
    client, own = Client(), Client()
    sign_in(client, shared="on")
    sign_in(own)
    assert "device" not in client.cookies, "and it is no device of theirs"
    assert client.cookies["sessionid"]["max-age"] == "", "it ends with the browser too"
    for one in (client, own):
        aged(one, seen=session_age.IDLE_S - 60)
        assert is_in(one)
    assert time.time() - client.session["seen"] < 60, "it was used"
    aged(client, seen=session_age.IDLE_S + 60)
    aged(own, seen=session_age.IDLE_S + 60)
    assert (is_in(client), is_in(own)) == (False, True)


def code_of(person, ahead=0):
    device = TOTPDevice.objects.get(user=person)
    totp = TOTP(device.bin_key, device.step, device.t0, device.digits, device.drift)
    totp.time = time.time() + ahead * device.step
    return f"{totp.token():06d}"


@pytest.fixture
def with_factor(wilfred):
    """A client of somebody who put a second factor on, and their codes on paper."""
    client = Client()
    sign_in(client)
    page = client.post(reverse("second-factor"), {"begin": "1"})
    assert "<svg" in page.content.decode()
    assert page.content.decode().count("<script") == client.get(STAND).content.decode().count("<script")
    assert client.post(reverse("second-factor"), {"confirm": "1", "code": "000000"}).status_code == 422
    TOTPDevice.objects.update(throttling_failure_count=0)
    done = client.post(reverse("second-factor"), {"confirm": "1", "code": code_of(wilfred)})
    codes = re.findall(r"<li>(\w+)</li>", done.content.decode())
    assert len(set(codes)) == 8
    return client, codes


def test_with_a_second_factor_a_password_alone_lets_nobody_in(wilfred, with_factor):
    other = Client()
    assert sign_in(other).url == reverse("sign-in-code")
    assert not is_in(other)
    assert other.post(reverse("sign-in-code"), {"code": "123456"}).status_code == 422
    assert not is_in(other)
    TOTPDevice.objects.update(throttling_failure_count=0)
    code = code_of(wilfred, 1)
    assert other.post(reverse("sign-in-code"), {"code": code}).url == STAND
    assert is_in(other)
    used = Client()
    sign_in(used)
    used.post(reverse("sign-in-code"), {"code": code})
    assert not is_in(used), "a code works once"


def test_each_code_on_paper_works_once(wilfred, with_factor):
    _, codes = with_factor
    for code in codes[:2]:
        other = Client()
        sign_in(other)
        other.post(reverse("sign-in-code"), {"code": code})
        assert is_in(other)
    again = Client()
    sign_in(again)
    assert again.post(reverse("sign-in-code"), {"code": codes[0]}).status_code == 422
    assert StaticToken.objects.count() == 6


def test_codes_cannot_be_guessed_one_after_the_other(wilfred, with_factor):
    other = Client()
    sign_in(other)
    other.post(reverse("sign-in-code"), {"code": "123456"})
    assert other.post(reverse("sign-in-code"), {"code": code_of(wilfred, 1)}).status_code == 422, "too soon"


def test_the_half_that_the_password_opens_lasts_five_minutes(wilfred, with_factor):
    other = Client()
    sign_in(other)
    session = other.session
    session["half signed in"] |= {"at": int(time.time()) - 400}
    session.save()
    assert other.post(reverse("sign-in-code"), {"code": code_of(wilfred, 1)}).url == SIGN_IN
    assert Client().get(reverse("sign-in-code")).url == SIGN_IN


def test_a_link_to_a_new_password_does_not_go_round_the_second_factor(wilfred, with_factor):
    from web.shops import passes

    token = passes.issue(Pass.Kind.PASSWORD, shop=wilfred.shop, person=wilfred)
    other = Client()
    posted = {"password": "an-other-brass-one", "again": "an-other-brass-one"}
    assert other.post(reverse("welcome", args=[token]), posted).url == reverse("sign-in-code")
    assert not is_in(other)


def test_the_owner_takes_a_lost_second_factor_off_and_so_does_its_person(wilfred, with_factor):
    client, _ = with_factor
    owner = Client()
    owner.force_login(making.person("ottoline", role=Person.Role.OWNER))
    assert "Turn off the second factor" in words(owner.get(reverse("people")))
    owner.post(reverse("people"), {"factor-off": wilfred.pk})
    assert not TOTPDevice.objects.exists()
    assert "turned off the second factor of wilfred" in words(owner.get(reverse("people")))
    client.post(reverse("second-factor"), {"begin": "1"})
    client.post(reverse("second-factor"), {"confirm": "1", "code": code_of(wilfred)})
    client.post(reverse("second-factor"), {"take-off": "1"})
    assert not TOTPDevice.objects.exists()


@pytest.mark.parametrize(
    ("name", "posted", "made"),
    [
        ("people", {"invite": "1", "role": "owner"}, Pass.objects.count),
        ("me", {"make-key": "1", "key-name": "caliper script"}, ProgramKey.objects.count),
        ("people", {"role-of": "other", "role": "owner"}, lambda: Person.objects.filter(role="owner").count() - 1),
    ],
)
def test_who_lets_others_in_is_asked_for_the_password_again_after_ten_minutes(wilfred, settings, name, posted, made):
    settings.DEMO_MODE = False
    other = making.person("agnes")
    posted = {key: str(other.pk) if value == "other" else value for key, value in posted.items()}
    client = Client()
    sign_in(client)
    aged(client, proved=asked_again.GOOD_FOR_S + 5)
    page = client.post(reverse(name), posted)
    assert "Your password, please" in words(page)
    assert made() == 0
    wrong = client.post(reverse(name), posted | {"password-again": "guess"})
    assert (wrong.status_code, "That is not your password" in words(wrong)) == (422, True)
    kept = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', page.content.decode()))
    assert posted.items() <= kept.items(), "nothing is lost"
    client.post(reverse(name), kept | {"password-again": "brass-monkey"})
    assert made() == 1
    assert "password-again" not in str(kept)


def test_no_password_and_no_code_comes_back_in_the_page_that_keeps_what_was_typed(db):
    secret = {"old": "brass-one", "password": "brass-two", "again": "brass-three", "password-again": "brass-four"}
    posted = secret | {"code": "brass-five", "first_name": "Wilfred"}
    answer = Client().post(reverse("me"), posted, headers={"Origin": "http://testserver"})
    assert (answer.status_code, "Wilfred" in answer.content.decode()) == (401, True)
    assert "brass" not in answer.content.decode()


def test_a_password_that_was_changed_stands_on_the_owners_page(wilfred):
    client = Client()
    sign_in(client)
    new = {"password": "an-other-brass-one", "again": "an-other-brass-one"}
    client.post(reverse("me"), {"new-password": "1", "old": "brass-monkey"} | new)
    assert ShopLine.objects.first().words == "wilfred changed their password"


def test_signing_out_has_the_browser_forget_what_it_kept(wilfred):
    client = Client()
    sign_in(client)
    assert client.post("/sign-out/")["Clear-Site-Data"] == '"cache"'
