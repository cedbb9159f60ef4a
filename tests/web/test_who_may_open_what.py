"""Who may open what: one row an address, tried as nobody, viewer, member and another shop."""

from uuid import uuid4

import pytest
from django.test import Client
from django.urls import URLResolver, get_resolver, reverse
from django_scopes import scope
from django_scopes.exceptions import ScopeError

from tests import making_rows as making
from web.builds.models import Build, Entry
from web.shops.models import Person

IN, OK, NO, GONE, OVER, BAD, WRONG, METHOD, DONE = 302, 200, 403, 404, 410, 400, 422, 405, 204

# name: (needs a build, method, nobody, viewer, member, another shop)
MATRIX = {
    ("builds", "get"): (False, IN, OK, OK, OK),
    ("sign-in", "get"): (False, OK, IN, IN, IN),
    ("sign-in-code", "get"): (False, IN, IN, IN, IN),  # after a password: test_signing_in.py
    ("sign-in-code", "post"): (False, IN, IN, IN, IN),
    ("second-factor", "get"): (False, IN, OK, OK, OK),
    ("second-factor", "post"): (False, IN, OK, OK, OK),
    ("sign-out", "post"): (False, IN, IN, IN, IN),
    ("welcome", "get"): (False, OVER, OVER, OVER, OVER),  # an address that nobody was given
    ("welcome", "post"): (False, OVER, OVER, OVER, OVER),
    ("people", "get"): (False, IN, NO, NO, NO),  # only an owner: test_people.py
    ("people", "post"): (False, IN, NO, NO, NO),
    ("me", "get"): (False, IN, OK, OK, OK),
    ("me", "post"): (False, IN, OK, OK, OK),
    ("understood", "get"): (False, IN, OK, OK, OK),
    ("dial", "get"): (False, IN, OK, OK, OK),
    ("quick", "get"): (False, IN, OK, OK, OK),
    ("glossary", "get"): (False, IN, OK, OK, OK),
    ("shelf", "get"): (False, IN, OK, OK, OK),
    ("shelf", "post"): (False, IN, NO, WRONG, WRONG),
    ("cams", "get"): (False, IN, OK, OK, OK),
    ("cams", "post"): (False, IN, NO, WRONG, WRONG),
    ("new-build", "get"): (False, IN, NO, OK, OK),
    ("new-build", "post"): (False, IN, NO, WRONG, WRONG),
    ("import", "get"): (False, IN, NO, OK, OK),
    ("import", "post"): (False, IN, NO, WRONG, WRONG),
    ("import-look", "get"): (False, IN, NO, GONE, GONE),  # a batch that nobody sent: test_coming_in.py
    ("import-look", "post"): (False, IN, NO, GONE, GONE),
    ("workbook", "get"): (True, IN, OK, OK, GONE),
    ("readings-in", "get"): (True, IN, NO, OK, GONE),
    ("readings-in", "post"): (True, IN, NO, WRONG, GONE),
    ("readings-look", "get"): (True, IN, NO, GONE, GONE),
    ("readings-look", "post"): (True, IN, NO, GONE, GONE),
    ("build", "get"): (True, IN, IN, IN, GONE),
    ("checks-csv", "get"): (True, IN, OK, OK, GONE),
    ("readings-csv", "get"): (True, IN, OK, OK, GONE),
    ("report-txt", "get"): (True, IN, OK, OK, GONE),
    ("shown-sheet", "get"): (False, OVER, OVER, OVER, OVER),  # an address that nobody was given: test_links.py
    ("shown-pdf", "get"): (False, OVER, OVER, OVER, OVER),
    ("put-away", "get"): (True, IN, IN, IN, GONE),
    ("put-away", "post"): (True, IN, NO, IN, GONE),
    ("mend", "get"): (True, IN, IN, IN, GONE),  # the factory's build can be read: it leads there
    ("mend", "post"): (True, IN, NO, IN, GONE),
    ("block", "get"): (True, IN, OK, OK, GONE),
    ("block", "post"): (True, IN, NO, WRONG, GONE),
    ("tdc", "get"): (True, IN, OK, OK, GONE),
    ("tdc", "post"): (True, IN, NO, WRONG, GONE),
    ("deck", "get"): (True, IN, OK, OK, GONE),
    ("deck", "post"): (True, IN, NO, IN, GONE),
    ("stack", "get"): (True, IN, OK, OK, GONE),
    ("stack", "post"): (True, IN, NO, WRONG, GONE),
    ("deck-chart", "get"): (True, IN, GONE, GONE, GONE),  # the factory's build has one deck, not barrels
    ("quench", "get"): (True, IN, OK, OK, GONE),
    ("quench", "post"): (True, IN, NO, WRONG, GONE),
    ("volumes", "get"): (True, IN, OK, OK, GONE),
    ("volumes", "post"): (True, IN, NO, IN, GONE),
    ("mock-up", "get"): (True, IN, OK, OK, GONE),
    ("mock-up", "post"): (True, IN, NO, WRONG, GONE),
    ("cam", "get"): (True, IN, OK, OK, GONE),
    ("cam", "post"): (True, IN, NO, IN, GONE),
    ("pushrods", "get"): (True, IN, OK, OK, GONE),
    ("pushrods", "post"): (True, IN, NO, IN, GONE),
    ("lobe-csv", "get"): (True, IN, GONE, GONE, GONE),  # the factory's build has no measured lobe
    ("lobe-txt", "get"): (True, IN, GONE, GONE, GONE),
    ("clay", "get"): (True, IN, OK, OK, GONE),
    ("clay", "post"): (True, IN, NO, IN, GONE),
    ("pictures-in", "get"): (True, IN, OK, OK, GONE),
    ("pictures-in", "post"): (True, IN, NO, WRONG, GONE),
    ("measure-picture", "get"): (True, IN, GONE, GONE, GONE),  # a picture that is not there: test_pictures.py
    ("measure-picture", "post"): (True, IN, NO, GONE, GONE),
    ("pictures", "get"): (True, IN, OK, OK, GONE),
    ("pictures", "post"): (True, IN, NO, WRONG, GONE),
    ("picture", "get"): (True, IN, GONE, GONE, GONE),
    ("picture-small", "get"): (True, IN, GONE, GONE, GONE),
    ("pictures-zip", "get"): (True, IN, OK, OK, GONE),
    ("reference-card", "get"): (False, IN, OK, OK, OK),
    ("card-pdf", "get"): (False, IN, OK, OK, OK),
    ("sweep", "get"): (True, IN, OK, OK, GONE),
    ("sweep", "post"): (True, IN, NO, IN, GONE),
    ("verdict", "get"): (True, IN, OK, OK, GONE),
    ("verdict", "post"): (True, IN, NO, OK, GONE),
    ("put-right", "get"): (True, IN, OK, OK, GONE),
    ("put-right", "post"): (True, IN, NO, OK, GONE),
    ("plans", "get"): (True, IN, OK, OK, GONE),
    ("plans", "post"): (True, IN, METHOD, METHOD, METHOD),
    ("explore", "get"): (True, IN, OK, OK, GONE),
    ("explore", "post"): (True, IN, METHOD, METHOD, METHOD),
    ("remedies", "get"): (True, IN, 307, 307, GONE),
    ("sensitivity", "get"): (True, IN, 307, 307, GONE),
    ("room", "get"): (True, IN, 307, 307, GONE),
    ("map", "get"): (True, IN, 307, 307, GONE),
    ("to-order-old", "get"): (True, IN, 307, 307, GONE),
    ("which-cam-old", "get"): (True, IN, 307, 307, GONE),
    ("tried", "get"): (True, IN, OK, OK, GONE),
    ("to-order", "get"): (True, IN, OK, OK, GONE),
    ("order-sheet", "get"): (True, IN, GONE, GONE, GONE),  # nothing is asked of pistons: test_to_order.py
    ("order-pdf", "get"): (True, IN, GONE, GONE, GONE),
    ("which-cam", "get"): (True, IN, OK, OK, GONE),
    ("which-cam", "post"): (True, IN, NO, OK, GONE),
    ("assembly", "get"): (True, IN, OK, OK, GONE),
    ("assembly", "post"): (True, IN, NO, GONE, GONE),
    ("alike", "get"): (True, IN, OK, OK, GONE),
    ("alike", "post"): (True, IN, NO, GONE, GONE),  # too few comparisons to choose: test_shop_memory.py
    ("beside", "get"): (True, IN, OK, OK, GONE),
    ("memory", "get"): (False, IN, OK, OK, OK),
    ("history", "get"): (True, IN, OK, OK, GONE),
    ("sheet", "get"): (True, IN, OK, OK, GONE),
    ("sheet-pdf", "get"): (True, IN, OK, OK, GONE),
    ("export", "get"): (True, IN, OK, OK, GONE),
    ("pulse", "get"): (True, IN, OK, OK, GONE),
    ("gauge-next", "post"): (False, IN, NO, DONE, DONE),
    ("gauge-done", "post"): (False, IN, NO, DONE, DONE),
    ("gauge-tray", "get"): (False, IN, OK, OK, OK),
    ("gauge-unit", "post"): (False, IN, NO, WRONG, WRONG),
    ("worker", "get"): (False, OK, OK, OK, OK),
    ("manifest", "get"): (False, OK, OK, OK, OK),
    ("no-connection", "get"): (False, OK, OK, OK, OK),
    ("entries", "post"): (True, IN, NO, BAD, GONE),
    ("entries-old", "post"): (True, IN, NO, 307, 307),
    ("gauge-line", "post"): (False, IN, NO, WRONG, WRONG),
    ("gauges", "get"): (False, IN, OK, OK, OK),
    ("gauges", "post"): (False, IN, NO, WRONG, WRONG),
    ("openapi", "get"): (False, OK, OK, OK, OK),
    ("demo-enter", "post"): (False, GONE, GONE, GONE, GONE),
    ("demo-reset", "post"): (False, IN, NO, GONE, GONE),
}


def every_name(patterns):
    for pattern in patterns:
        if isinstance(pattern, URLResolver):
            # What is for programs knows no session, only keys: test_programs.py.
            yield from every_name(pattern.url_patterns) if not pattern.namespace else ()
        else:
            yield pattern.name


def unlisted(names):
    return set(names) - {name for name, _ in MATRIX}


def test_every_address_stands_in_the_table():
    assert not unlisted(every_name(get_resolver().url_patterns))
    assert unlisted([*every_name(get_resolver().url_patterns), "a new one"]) == {"a new one"}


@pytest.mark.parametrize(("row", "expected"), MATRIX.items(), ids=lambda part: " ".join(map(str, part)))
def test_each_address_answers_each_person_as_the_table_says(row, expected, built, bench, viewer, stranger):
    (name, method), (needs_build, *statuses) = row, expected
    more = {"lobe-csv": ["intake"], "lobe-txt": ["intake"], "import-look": [uuid4()], "readings-look": [uuid4()]}.get(
        name, []
    )
    more = [built.pk] if name == "beside" else more
    more = [999_999_999] if name in ("measure-picture", "picture", "picture-small") else more
    more = ["made-up"] if name in ("welcome", "shown-sheet", "shown-pdf") else more
    address = reverse(name, args=[built.pk, *more] if needs_build else more)
    people = {"nobody": Client(), "viewer": viewer, "member": bench, "another shop": stranger}
    answers = {who: getattr(client, method)(address, {"x": "1"}) for who, client in people.items()}
    found = {who: answer.status_code for who, answer in answers.items()}
    for answer in answers.values():
        list(answer)
    assert found == dict(zip(people, statuses, strict=True))


def test_a_person_without_a_shop_sees_nothing(built, db):
    client = Client()
    client.force_login(Person.objects.create_user("nowhere", password="brass-monkey"))
    assert client.get(reverse("builds")).context["cards"] == []
    assert client.get(reverse("deck", args=[built.pk])).status_code == GONE


def test_rows_cannot_be_asked_for_outside_a_shops_scope(built):
    with pytest.raises(ScopeError):
        Build.objects.count()
    with pytest.raises(ScopeError):
        Entry.objects.count()
    with scope(shop=built.shop):
        assert Build.objects.get() == built


def test_the_demo_button_does_not_exist_outside_demo_mode(settings, db):
    settings.DEMO_MODE = False
    assert "demo shop" not in Client().get(reverse("sign-in")).content.decode()


def test_another_shops_reading_cannot_be_struck_out_from_here(whole, stranger, bench, member):
    own = making.build(Person.objects.get(username="stranger"))
    with scope(shop=whole.shop):
        reading = Entry.objects.filter(kind="deck").first()
    answer = stranger.post(reverse("deck", args=[own.pk]), {"strike": f"deck-{reading.pk}", "reason": "mine"})
    assert answer.status_code == GONE
    other = making.build(member)
    assert (
        bench.post(reverse("deck", args=[other.pk]), {"strike": f"deck-{reading.pk}", "reason": "x"}).status_code
        == GONE
    )
