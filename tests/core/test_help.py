"""Help: every station has a how-to, and the glossary is one text on page and in docs."""

import re
from pathlib import Path

from mockup.base.stations import Station
from mockup.words.glossary import TERMS, as_markdown, in_order
from mockup.words.howto import HOW_TO


def test_every_station_says_how_its_work_is_done():
    assert set(HOW_TO) == set(Station)
    for station, how in HOW_TO.items():
        assert how.tools
        assert how.steps, station
        assert how.wrong, station
        assert all(step[0].isupper() and step.endswith(".") for step in (*how.steps, *how.wrong)), station


def test_the_docs_have_the_same_glossary():
    assert Path("docs/glossary.md").read_text() == as_markdown(), "run: python -m launch.schema"


def test_terms_are_told_once_in_the_order_a_reader_looks_for_them():
    keys = [term.key for term in TERMS]
    assert len(keys) == len(set(keys))
    assert all(re.fullmatch("[a-z-]+", key) for key in keys)
    words = [term.words.lower() for term in in_order()]
    assert words == sorted(words)
    assert all(term.meaning.endswith(".") for term in TERMS)
