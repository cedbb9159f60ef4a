"""A link for a customer: one build's sheet, nothing else of the shop, until it ends."""

from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_scopes import scope

from mockup.base.faults import FaultsError
from tests import making_rows as making
from tests.web import words
from web.builds.customer_links import MOST_AT_ONCE, make_link
from web.builds.models import SheetLink


def made(client, built, **said):
    """The address of a link made on the page, as somebody outside the shop gets it."""
    answer = client.post(reverse("assembly", args=[built.pk]), {"link": "1", "days": "30", "link_for": ""} | said)
    assert answer.status_code == 302
    page = client.get(reverse("assembly", args=[built.pk]))
    assert "it is shown once" in words(page)
    return page.context["link"].removeprefix("http://testserver")


@pytest.fixture
def stranger():
    return Client()


def test_whoever_has_the_address_reads_the_sheet_and_its_pdf_signed_in_or_not(bench, stranger, whole):
    address = made(bench, whole, link_for="hull 31")
    other_shop = Client()
    other_shop.force_login(making.person("other", shop_name="Elsewhere"))
    for reader in (stranger, other_shop, bench):
        answer = reader.get(address)
        assert answer.status_code == 200
        assert "Bittern" in words(answer)
        assert "Exhaust 2" in words(answer)
        assert answer["X-Robots-Tag"] == "noindex, nofollow"
        assert answer["Referrer-Policy"] == "no-referrer"
        assert "no-store" in answer["Cache-Control"]
    assert stranger.get(f"{address}sheet.pdf").content.startswith(b"%PDF-")
    # Nothing on it leads into the shop, and nothing of the shop opens by it.
    assert "/builds/" not in stranger.get(address).content.decode()
    assert stranger.get(reverse("deck", args=[whole.pk])).status_code == 302
    assert stranger.post(address).status_code == 405


def test_it_shows_the_sheet_as_it_is_now(bench, stranger, whole):
    address = made(bench, whole)
    bench.post(reverse("verdict", args=[whole.pk]), {"sign": "Exhaust 2", "reason": "cam maker says 80"})
    bench.post(reverse("clay", args=[whole.pk]) + "?cylinder=2", {"clay-exhaust-1-face-3": "61"})
    assert "short" in words(stranger.get(address))


def test_the_address_is_shown_once_and_only_its_digest_is_kept(bench, whole):
    address = made(bench, whole)
    token = address.rstrip("/").rpartition("/")[2]
    assert token not in bench.get(reverse("assembly", args=[whole.pk])).content.decode()
    with scope(shop=whole.shop):
        link = SheetLink.objects.get()
    assert token not in str(vars(link))
    assert len(token) >= 40


def test_ended_or_too_old_it_leads_nowhere(bench, viewer, stranger, whole):
    address, second = made(bench, whole, link_for="first"), made(bench, whole, link_for="second")
    with scope(shop=whole.shop):
        first, later = SheetLink.objects.get(words="first"), SheetLink.objects.get(words="second")
    end = {"end-link": first.pk}
    assert viewer.post(reverse("assembly", args=[whole.pk]), end).status_code == 403
    assert stranger.get(address).status_code == 200
    bench.post(reverse("assembly", args=[whole.pk]), end)
    bench.post(reverse("assembly", args=[whole.pk]), end)  # twice is once
    answer = stranger.get(address)
    assert answer.status_code == 410
    assert "has expired" in words(answer)
    with scope(shop=whole.shop):
        SheetLink.objects.filter(pk=later.pk).update(ends_at=timezone.now() - timedelta(seconds=1))
    for gone in (second, f"{second}sheet.pdf"):
        assert stranger.get(gone).status_code == 410
    said = words(bench.get(reverse("history", args=[whole.pk])))
    assert "link to the build sheet first none → until" in said
    assert "link to the build sheet first open → ended" in said


def test_links_of_another_build_or_shop_are_not_ended(bench, member, whole):
    made(bench, whole)
    with scope(shop=whole.shop):
        number = SheetLink.objects.get().pk
    other = making.build(member)
    assert bench.post(reverse("assembly", args=[other.pk]), {"end-link": number}).status_code == 404
    elsewhere = Client()
    elsewhere.force_login(making.person("other", shop_name="Elsewhere"))
    assert elsewhere.post(reverse("assembly", args=[whole.pk]), {"end-link": number}).status_code == 404
    for odd in ("", "x", "-1", "9" * 40):
        assert bench.post(reverse("assembly", args=[whole.pk]), {"end-link": odd}).status_code == 404


@pytest.mark.parametrize(
    ("said", "why"),
    [({"days": "3650"}, "how long it is valid"), ({"days": ""}, "how long"), ({"link_for": "x" * 61}, "At most 60")],
)
def test_what_is_no_link_is_said_with_what_was_typed(bench, whole, said, why):
    answer = bench.post(reverse("assembly", args=[whole.pk]), {"link": "1", "days": "7", "link_for": "hull"} | said)
    assert answer.status_code == 422
    assert why in words(answer)


def test_so_many_are_open_at_once_and_no_more(member, whole):
    with scope(shop=whole.shop):
        for _ in range(MOST_AT_ONCE):
            make_link(whole, member, 7)
        with pytest.raises(FaultsError, match="20 links are open"):
            make_link(whole, member, 7)
