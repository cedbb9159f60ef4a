"""The help on the pages: how-to, glossary, and the links to them."""

import re

from django.urls import reverse

from mockup.words.glossary import TERMS
from tests.web import BUILD_PAGES, words
from tests.web.asking import page


def test_each_station_folds_its_own_help_in(bench, whole):
    for name, says in (
        ("deck", "Zero the dial on the deck"),
        ("clay", "Slice, and measure"),
        ("tdc", "TDC is halfway"),
    ):
        assert says in words(page(bench, whole, name=name))


def test_the_glossary_tells_every_term_at_its_own_place(bench):
    text = bench.get(reverse("glossary")).content.decode()
    for term in TERMS:
        assert f'id="{term.key}"' in text
        assert term.words in text


def test_whatever_points_into_the_glossary_points_at_a_term(bench, whole):
    keys = {term.key for term in TERMS}
    for name in BUILD_PAGES:
        for key in re.findall(r"/glossary/#([a-z-]+)", page(bench, whole, name=name).content.decode()):
            assert key in keys
