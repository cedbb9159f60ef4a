"""A shop without a shell: its first owner, who may sign in, one's own page."""

import re
from datetime import timedelta

import pytest
from django.core import mail
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_scopes import scopes_disabled

from tests import making_rows as making
from tests.web import words
from web.shops import passes
from web.shops.models import Pass, Person, Shop, ShopLine

GOOD = {"password": "brass-monkey-9", "again": "brass-monkey-9"}
OTTOLINE = {"shop": "Saltmarsh", "name": "Ottoline", "username": "Ottoline"} | GOOD


@pytest.fixture
def owner(db):
    client = Client()
    client.force_login(making.person("ottoline", role=Person.Role.OWNER))
    return client


def welcome(token, posted=None, client=None):
    client = client or Client()
    address = reverse("welcome", args=[token])
    return client.post(address, posted) if posted else client.get(address)


def link_in(page):
    return re.search(r'value="(http://testserver/welcome/[^"]+)"', page.content.decode())[1].rsplit("/", 2)[1]


def test_the_first_owner_makes_the_shop_once_and_is_in(db):
    token = passes.issue(Pass.Kind.FIRST)
    client = Client()
    assert "Your shop" in words(welcome(token))
    assert welcome(token, OTTOLINE, client).url == reverse("builds")
    person = Person.objects.get()
    assert (person.username, person.role, person.shop.name) == ("ottoline", "owner", "Saltmarsh")
    assert client.get(reverse("builds")).status_code == 200
    assert welcome(token).status_code == 410, "it works once"
    assert welcome(passes.issue(Pass.Kind.FIRST)).status_code == 410, "there is a shop already"
    assert not Pass.objects.filter(digest=token).exists(), "only a digest is kept"


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"again": "other"}, "differ"),
        ({"password": "12345678", "again": "12345678"}, "too common"),
        ({"password": "short1", "again": "short1"}, "too short"),
        ({"username": ""}, "required"),
    ],
)
def test_what_cannot_be_comes_back_with_its_text(db, wrong, said):
    token = passes.issue(Pass.Kind.FIRST)
    answer = welcome(token, OTTOLINE | wrong)
    assert answer.status_code == 422
    assert said in words(answer)
    assert 'value="Saltmarsh"' in answer.content.decode()
    assert "brass-monkey" not in answer.content.decode(), "no password is sent back"
    assert not Shop.objects.exists()


def test_the_owner_invites_by_a_link_that_is_shown_once_and_works_once(owner):
    page = owner.post(reverse("people"), {"invite": "1", "role": "viewer"})
    token = link_in(page)
    assert token not in owner.get(reverse("people")).content.decode()
    client = Client()
    assert welcome(token, {"name": "Barnaby", "username": "barnaby"} | GOOD, client).status_code == 302
    barnaby = Person.objects.get(username="barnaby")
    assert (barnaby.role, barnaby.shop.name) == ("viewer", "Saltmarsh")
    assert client.get(reverse("new-build")).status_code == 403
    assert welcome(token, {"name": "B", "username": "b"} | GOOD).status_code == 410
    assert "Barnaby joined" in words(owner.get(reverse("people")))


def test_a_link_ends_by_time_and_by_being_taken_back(owner):
    one, two = (link_in(owner.post(reverse("people"), {"invite": "1", "role": "member"})) for _ in range(2))
    Pass.objects.filter(digest=passes.digest_of(one)).update(ends=timezone.now() - timedelta(seconds=1))
    owner.post(reverse("people"), {"take-back": Pass.objects.get(digest=passes.digest_of(two)).pk})
    assert [welcome(token).status_code for token in (one, two, "made-up")] == [410, 410, 410]


def test_a_name_that_is_taken_is_not_given_twice(owner):
    token = link_in(owner.post(reverse("people"), {"invite": "1", "role": "member"}))
    assert "is taken" in words(welcome(token, {"name": "O", "username": "OTTOLINE"} | GOOD))


def test_whose_access_ends_is_out_at_once_and_what_they_wrote_stays(owner):
    wilfred = making.person("wilfred")
    built = making.build(wilfred)
    client = Client()
    client.force_login(wilfred)
    assert client.get(reverse("builds")).status_code == 200
    owner.post(reverse("people"), {"end": wilfred.pk})
    assert client.get(reverse("builds")).status_code == 302
    assert owner.get(reverse("build", args=[built.pk])).status_code == 302
    owner.post(reverse("people"), {"give-back": wilfred.pk})
    wilfred.refresh_from_db()
    assert wilfred.is_active
    assert "access removed" in words(owner.get(reverse("people")))


def test_a_role_is_changed_and_holds_at_the_next_page(owner):
    wilfred = making.person("wilfred")
    client = Client()
    client.force_login(wilfred)
    owner.post(reverse("people"), {"role-of": wilfred.pk, "role": "viewer"})
    assert client.get(reverse("new-build")).status_code == 403
    assert owner.post(reverse("people"), {"role-of": wilfred.pk, "role": "emperor"}).status_code == 404


def test_an_owner_stays_one_until_another_says_otherwise(owner):
    me = Person.objects.get(username="ottoline")
    for posted in ({"end": me.pk}, {"role-of": me.pk, "role": "viewer"}):
        assert "A shop needs an owner" in words(owner.post(reverse("people"), posted, follow=True))
    me.refresh_from_db()
    assert (me.role, me.is_active) == ("owner", True)


def test_a_forgotten_password_is_set_by_a_link(owner):
    wilfred = making.person("wilfred")
    token = link_in(owner.post(reverse("people"), {"password": wilfred.pk}))
    assert welcome(token, GOOD).status_code == 302
    signed_in = Client().post(reverse("sign-in"), {"username": "wilfred", "password": GOOD["password"]})
    assert signed_in.url == reverse("builds")
    assert welcome(token, GOOD).status_code == 410
    assert not mail.outbox


@pytest.mark.parametrize("name", ["end", "give-back", "role-of", "password"])
def test_nobody_of_another_shop_can_be_changed(owner, name):
    stranger = making.person("stranger", shop_name="Elsewhere")
    assert owner.post(reverse("people"), {name: stranger.pk, "role": "viewer"}).status_code == 404
    assert owner.post(reverse("people"), {name: "x" * 30}).status_code == 404
    assert "stranger" not in words(owner.get(reverse("people")))


def test_only_the_owner_sees_the_page_of_people(bench, viewer, owner):
    assert [client.get(reverse("people")).status_code for client in (bench, viewer, owner)] == [403, 403, 200]
    assert bench.post(reverse("people"), {"invite": "1", "role": "owner"}).status_code == 403


def test_ones_own_page_changes_name_unit_lights_and_password(bench, member):
    bench.post(reverse("me"), {"own": "1", "first_name": "Clem", "unit": "mm", "theme": "dark"})
    member.refresh_from_db()
    assert (member.first_name, member.unit, member.theme) == ("Clem", "mm", "dark")
    assert 'data-bs-theme="dark" data-theme-said' in bench.get(reverse("builds")).content.decode()
    assert bench.get(reverse("new-build")).context["form"]["unit"].value() == "mm"
    wrong = bench.post(reverse("me"), {"new-password": "1", "old": "guess"} | GOOD)
    assert (wrong.status_code, "not your present password" in words(wrong)) == (422, True)
    elsewhere = Client()
    elsewhere.force_login(member)
    assert bench.post(reverse("me"), {"new-password": "1", "old": "brass-monkey"} | GOOD).status_code == 302
    assert bench.get(reverse("builds")).status_code == 200, "who changes it stays in"
    assert elsewhere.get(reverse("builds")).status_code == 302, "everywhere else is out"


def test_one_signs_out_everywhere_else(bench, member):
    elsewhere = Client()
    elsewhere.force_login(member)
    bench.post(reverse("me"), {"sign-out-others": "1"})
    assert (bench.get(reverse("builds")).status_code, elsewhere.get(reverse("builds")).status_code) == (200, 302)


def test_what_was_changed_of_people_stands_in_the_shops_own_history(owner, stranger):
    owner.post(reverse("people"), {"invite": "1", "role": "member"})
    with scopes_disabled():
        assert [line.words for line in ShopLine.objects.all()] == ["made a link to join as member"]


def test_whoever_guesses_passwords_is_told_to_wait_and_locks_nobody_else_out(db):
    making.person("wilfred"), making.person("agnes")
    guessing = Client()
    answers = [guessing.post(reverse("sign-in"), {"username": "wilfred", "password": "guess"}) for _ in range(9)]
    assert [answer.status_code for answer in answers[:7]] == [200] * 7
    assert (answers[-1].status_code, "Please wait" in words(answers[-1])) == (429, True)
    right = {"username": "wilfred", "password": "brass-monkey"}
    assert guessing.post(reverse("sign-in"), right).status_code == 429, "the right one too, while it lasts"
    assert Client(REMOTE_ADDR="10.0.0.9").post(reverse("sign-in"), right).status_code == 302, "from elsewhere"
    assert guessing.post(reverse("sign-in"), right | {"username": "agnes"}).status_code == 302
