"""The version on pages, sheets, exports and the command is CHANGELOG.md's newest."""

import io
import json
import re
import subprocess
from pathlib import Path

import openpyxl
from django.urls import reverse

from mockup import PROGRAM, __version__
from mockup.formats.job_read import read_job
from tests.web import words

ROOT = Path(__file__).parents[2]


def test_the_command_states_it():
    done = subprocess.run([ROOT / "mole", "--version"], capture_output=True, text=True, check=True)
    assert done.stdout == f"{PROGRAM}\n"


def test_it_is_the_newest_of_the_change_log():
    newest = re.search(r"^## (\d+\.\d+\.\d+)", (ROOT / "CHANGELOG.md").read_text(), re.MULTILINE)
    assert newest
    assert newest[1] == __version__


def test_each_page_states_it_at_its_foot(bench, whole):
    for address in (reverse("builds"), reverse("verdict", args=[whole.pk]), reverse("glossary")):
        foot = bench.get(address).content.decode().partition("<footer")[2]
        assert PROGRAM in foot


def test_the_page_of_signing_in_states_it(client):
    assert PROGRAM in words(client.get(reverse("sign-in")))


def test_exports_state_it(bench, whole):
    job = bench.get(reverse("export", args=[whole.pk])).content.decode()
    assert json.loads(job)["program"] == PROGRAM
    assert read_job(job).name == whole.name
    assert f"Made with {PROGRAM}." in bench.get(reverse("report-txt", args=[whole.pk])).content.decode()
    workbook = openpyxl.load_workbook(io.BytesIO(bench.get(reverse("workbook", args=[whole.pk])).content))
    assert workbook.properties.creator == PROGRAM
