"""The path of a reading from form to verdict is the one in CONTRIBUTING.md."""

import re
import sys
from pathlib import Path
from types import FrameType
from uuid import uuid4

from django.urls import reverse

ROOT = Path(__file__).parents[2]
ROW = re.compile(r"^\| \d+ \| `(?P<file>src/[\w/]+\.py)` \| `(?P<function>\w+)` \|", re.MULTILINE)
MOST_FILES = 15


def described():
    return [(row["file"], row["function"]) for row in ROW.finditer((ROOT / "CONTRIBUTING.md").read_text())]


class Calls:
    """The first call of each function of ``src``, in order."""

    def __init__(self) -> None:
        self.seen: dict[tuple[str, str], None] = {}

    def __call__(self, frame: FrameType, event: str, _arg: object) -> None:
        file = frame.f_code.co_filename
        if event == "call" and file.startswith(str(ROOT / "src")):
            self.seen.setdefault((str(Path(file).relative_to(ROOT)), frame.f_code.co_name))

    def __enter__(self):
        sys.setprofile(self)
        return self

    def __exit__(self, *_error: object) -> None:
        sys.setprofile(None)


def test_it_is_at_most_fifteen_files():
    files = [file for file, _ in described()]
    assert 10 < len(files) <= MOST_FILES
    assert len(set(files)) == len(files)


def test_a_reading_of_clay_passes_them_in_the_order_described(bench, whole):
    address = reverse("clay", args=[whole.pk]) + "?cylinder=2"
    reading = {"token": str(uuid4()), "page": address, "field": "clay-exhaust-1-face-3", "text": "104", "unit": "in"}
    with Calls() as calls:
        answer = bench.post(
            reverse("entries", args=[whole.pk]),
            {"entries": [reading], "page": address},
            content_type="application/json",
        )
    assert [fate["why"] for fate in answer.json()["fates"]] == [""]
    order = list(calls.seen)
    missing = [step for step in described() if step not in calls.seen]
    assert not missing
    assert sorted(described(), key=order.index) == described()
