"""Asking the pages of a build, and what they answer with."""

import contextlib
import re
import zlib
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.urls import reverse
from django_scopes import scope

from web.builds.models import Build
from web.shelf.models import ShelfCam, ShelfGasket
from web.shops.models import Shop


def page(client: Any, built: Build, query: str = "", name: str = "put-right") -> HttpResponse:
    return client.get(reverse(name, args=[built.pk]) + query)


def post(client: Any, built: Build, at: str = "put-right", /, **fields: Any) -> HttpResponse:
    name, _, query = at.partition("?")
    return client.post(reverse(name, args=[built.pk]) + (f"?{query}" if query else ""), fields)


def taken_in(client: Any, *files: bytes | str) -> HttpResponse:
    """Send job files, look at them, and take them in; the answer that ends it, wherever that is."""
    sent = [
        SimpleUploadedFile(f"{at}.job.json", one.encode() if isinstance(one, str) else one)
        for at, one in enumerate(files)
    ]
    answer = client.post(reverse("import"), {"file": sent})
    return client.post(answer.url) if answer.status_code == 302 else answer


def gasket_of(built: Build, name: str = "thick") -> ShelfGasket:
    with scope(shop=built.shop):
        return ShelfGasket.objects.get(name=name)


def shelf_cam(shop: Shop, name: str) -> ShelfCam:
    with scope(shop=shop):
        return ShelfCam.objects.get(name=name)


def shown(answer: Any) -> dict[str, Any]:
    """The strip before and after, by the kinds' names."""
    return {pair.label: pair for pair in answer.context["pairs"]}


def unpacked(pdf: bytes) -> bytes:
    """Everything a PDF holds, its packed streams opened."""
    found = [pdf]
    for stream in re.findall(rb"stream\r?\n(.*?)endstream", pdf, re.DOTALL):
        # What follows a stream's own end is not part of it, whatever line end stands there.
        with contextlib.suppress(zlib.error):
            found.append(zlib.decompressobj().decompress(stream))
    return b"\n".join(found)


def text_of(client, name, built, **query):
    """Return the text of a build's page by its address's name."""
    return client.get(reverse(name, args=[built.pk]), query).content.decode()
