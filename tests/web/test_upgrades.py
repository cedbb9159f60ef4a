"""Databases of earlier versions are migrated; landed migrations stay as they were.

All the states that commits left are tried by ./mole test upgrades, which wants the history.
"""

import hashlib
import os
import subprocess

import pytest
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db.migrations.recorder import MigrationRecorder

from launch import application
from launch.backup import back_up
from launch.places import HOME
from launch.restore import restore
from tests.upgrades.__main__ import EDITED, FIRST_DAY
from tests.upgrades.states import KEPT, brought_back, django, faults_of, refused_in_words, schema_of

LANDED = HOME / "tests" / "upgrades" / "landed.txt"


@pytest.fixture(scope="session")
def new(demo_made_url):
    """The schema of a new database."""
    return schema_of(demo_made_url)


@pytest.mark.parametrize("commit", [commit for commit in EDITED if commit not in FIRST_DAY])
def test_a_database_whose_migrations_were_edited_afterwards_is_brought_to_the_schema_of_a_new_one(another, new, commit):
    brought_back(KEPT / f"{commit}.dump", another)
    assert schema_of(another) != new
    assert faults_of(another, new, every_page="MOLE_THOROUGH" in os.environ) == []


def test_a_database_of_the_first_day_is_refused_in_words_and_left_as_it_is(another):
    brought_back(KEPT / f"{FIRST_DAY[-1]}.dump", another)
    assert refused_in_words(another) == []


def test_data_of_a_newer_program_is_refused_in_words(db):
    MigrationRecorder.Migration.objects.create(app="builds", name="9999_of_tomorrow")
    with pytest.raises(CommandError, match=r"newer version of the program \(builds.9999_of_tomorrow\)"):
        call_command("migrate", "--verbosity", "0")
    with pytest.raises(CommandError, match="Nothing was changed"):
        application._up_to_date()


def test_a_shop_is_backed_up_before_it_is_brought_up_to_date(another, tmp_path):
    brought_back(KEPT / f"{EDITED[-1]}.dump", another)
    script = f"""
import django; django.setup()
from pathlib import Path
from launch.application import _up_to_date
_up_to_date(Path({str(tmp_path / "backups")!r}))
_up_to_date(Path({str(tmp_path / "backups")!r}))
"""
    said = django(HOME, another, "shell", "--no-imports", "-c", script)
    assert said == ""
    (file,) = (tmp_path / "backups").iterdir()
    assert file.name.startswith("before-update-")
    assert file.stat().st_mode & 0o777 == 0o600


def test_a_backup_of_an_earlier_version_is_restored_and_brought_up_to_date(another, new, tmp_path, monkeypatch):
    monkeypatch.setenv("MOLE_STATE", str(tmp_path / "state"))
    brought_back(KEPT / "e122001.dump", another)
    back_up(another, tmp_path / "earlier.mole")
    restore(another, tmp_path / "earlier.mole", replace=True)
    assert schema_of(another) == new


def digests():
    found = sorted((HOME / "src" / "web").glob("*/migrations/0*.py"))
    return {str(path.relative_to(HOME)): hashlib.sha256(path.read_bytes()).hexdigest() for path in found}


def test_no_migration_is_edited_or_taken_away_once_it_has_landed():
    """New ones are listed by ``sha256sum src/web/*/migrations/0*.py``.

    It is written to tests/upgrades/landed.txt.
    """
    landed = {path: digest for digest, path in (line.split() for line in LANDED.read_text().splitlines())}
    assert digests() == landed


def test_the_list_of_landed_migrations_is_what_sha256sum_prints():
    done = subprocess.run(["sha256sum", "-c", str(LANDED)], cwd=HOME, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout
