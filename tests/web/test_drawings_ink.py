"""Drawings outside a browser: labels are as black in PDF and SVG as alone.

The second renderer: WeasyPrint sets a drawing, PDFium makes pixels of it.
"""

from copy import deepcopy
from xml.etree import ElementTree

import numpy as np
import pypdfium2
import pytest
from django.core.management import call_command
from django.test import Client
from django.urls import reverse
from django_scopes import scopes_disabled
from weasyprint import HTML

from web.builds.models import Build
from web.drawings import paint

SVG = "{http://www.w3.org/2000/svg}"
MARKS = tuple(f"{SVG}{name}" for name in ("path", "line", "circle", "rect", "polygon", "polyline", "ellipse", "image"))
WITH_HALOS = ("sweep", "put-right", "tdc", "mock-up", "clay")
HALF_DARK = 160


def pixels(tree):
    """A drawing as grey pixels, 0 for black, by WeasyPrint and PDFium."""
    ElementTree.register_namespace("", SVG[1:-1])
    drawing = ElementTree.tostring(tree, encoding="unicode")
    page = f"<style>@page {{ size: 200mm 200mm; margin: 0 }} svg {{ width: 190mm }}</style>{drawing}"
    document = pypdfium2.PdfDocument(HTML(string=page).write_pdf())
    return np.asarray(document[0].render(scale=2, grayscale=True).to_numpy()).squeeze()


def labels_alone(tree, only=None):
    """The drawing with its letters in black and nothing else; of ``only``, that one label."""
    alone = deepcopy(tree)
    for parent in alone.iter():
        for child in list(parent):
            if child.tag in MARKS or (child.tag == f"{SVG}text" and child.get("aria-hidden")):
                parent.remove(child)
            elif child.tag == f"{SVG}text":
                child.set("fill", "#000")
                child.set("stroke", "none")
    texts = list(alone.iter(f"{SVG}text"))
    for at, text in enumerate(texts):
        if only is not None and at != only:
            for part in text.iter():
                part.set("fill", "none")
                part.set("stroke", "none")
    return alone, len(texts)


def darkness(whole, letters):
    """How dark a drawing is where its letters are by themselves, from 0 to 1."""
    ink = letters < HALF_DARK
    return float((255 - whole[ink]).mean() / 255) if ink.any() else 1.0


def pale_labels(tree):
    whole = pixels(tree)
    _, count = labels_alone(tree)
    found = []
    for at in range(count):
        alone, _ = labels_alone(tree, at)
        # The palest of the tones that letters have is a grey of 0.4.
        if darkness(whole, pixels(alone)) < 0.33:
            found.append(at)
    return found, count


@pytest.fixture
def demo(db):
    call_command("load_demo")
    client = Client()
    client.post(reverse("demo-enter"))
    with scopes_disabled():
        return client, Build.objects.get(name="Bittern")


def files(client, build, name):
    """The drawings of a page, as files."""
    for one in client.get(reverse(name, args=[build.pk])).context["drawings"]:
        answer = client.get(reverse(name, args=[build.pk]), {"svg": one.number})
        yield one.name, ElementTree.fromstring(answer.content)  # noqa: S314, our own


def haloed(client, build):
    """Each drawing of the build, as a file, that has letters on a halo."""
    found = (one for name in WITH_HALOS for one in files(client, build, name))
    return [one for one in found if any(text.get("aria-hidden") for text in one[1].iter(f"{SVG}text"))]


def test_letters_on_a_halo_are_as_dark_as_by_themselves(demo):
    tried = 0
    for name, tree in haloed(*demo):
        pale, count = pale_labels(tree)
        assert pale == [], name
        tried += count
    assert tried > 8


def test_the_check_can_fail(demo, monkeypatch):
    """With the stroke of the halo left on the letters, as it was, they are pale."""
    monkeypatch.setattr(paint, "_halos_below", lambda _: None)
    client, build = demo
    assert any(pale_labels(tree)[0] for _, tree in files(client, build, "sweep"))
