"""Nonsense in every field of every form: no 500, nothing slow, no broken page.

A short form, always the same; ``MOLE_FUZZ=100000 ./mole test web -k fuzz`` is the long one.
"""

import os
import random
import re
import time

from django.urls import reverse

from tests import making_rows as making
from tests.web import STATION_PAGES

TRIES = int(os.environ.get("MOLE_FUZZ", "150"))
NONSENSE = [
    "", " ", "0", "-1", "1e999", "nan", "inf", "9" * 400, "9" * 40_000, "\x00", "a\x00b", "\U0001f600", "é" * 300,
    "<b>x</b>", "' OR 1=1 --", "../../etc/passwd", "1 to 2 of 3", "goes 11 not 12", "5 down", "96 wall", "no print",
    "over 200", "52 ± 3", "dish 5.2", "50 + 12.4", "11.5 turns", "27.5", "9 ATDC", "true", "on", "[]", "{}", "null",
    "1-2-3", "2.84mm", "1,5", "½", "intake", "exhaust", "deck-1", "change-1", "change-99999999999999999999",
    "\u0663", "\uff11\uff12", "−5", "+" * 5000, " " * 20_000, "1 " * 9000,
]  # fmt: skip
SLOW_S = 3.0
HEAD = re.compile(r"<(?:input|select|textarea|button)\b[^>]*\bname=\"([^\"]+)\"", re.DOTALL)


def names_in(page):
    return sorted(set(HEAD.findall(page.content.decode())) - {"csrfmiddlewaretoken", "once", "token"})


def test_nonsense_in_every_field_breaks_nothing(bench, whole, member):
    luck = random.Random(20261126)  # noqa: S311, always the same nonsense
    where = [reverse(name, args=[whole.pk]) for name in STATION_PAGES] + ["/builds/new/", "/shelf/", "/quick/", "/me/"]
    fields = {address: names_in(bench.get(address)) for address in where}
    bench.raise_request_exception = False
    troubles = []
    for at in range(TRIES):
        address = luck.choice(where)
        names = fields[address]
        chosen = luck.sample(names, min(len(names), luck.choice([1, 2, 5, 40])))
        typed = {name: luck.choice(NONSENSE) for name in chosen}
        typed |= {luck.choice(["strike", "done", "keep", "deck-9", "x"]): luck.choice(NONSENSE)} if at % 5 == 0 else {}
        began = time.process_time()
        ask = bench.get if address == "/quick/" or at % 7 == 0 else bench.post
        answer = ask(address, typed, **({"headers": {"HX-Request": "true"}} if at % 3 == 0 else {}))
        took = time.process_time() - began
        if answer.status_code >= 500 or took > SLOW_S:
            troubles.append(
                (address, {name: text[:60] for name, text in typed.items()}, answer.status_code, round(took, 1))
            )
        if at % 50 == 49:
            troubles += [(page, "breaks") for page in where if bench.get(page).status_code >= 500]
    assert troubles == []
    assert making.lines(whole, "deck")
