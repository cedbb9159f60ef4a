"""A restore that fails at any point leaves what was there: cuts, kills, a full disk."""

import hashlib
import json
import os
import shutil
import subprocess
import sys
import tarfile
import time

import pytest

from launch.backup import ABOUT, DUMP, BackupError, back_up
from launch.places import HOME
from launch.restore import restore
from launch.sql import sql
from launch.web import environment_for

THOROUGH = "MOLE_THOROUGH" in os.environ
CUTS = 10
KILLS = 10 if THOROUGH else 4
LINES = "SELECT name || ' ' || (SELECT count(*) FROM builds_entry) FROM shops_shop ORDER BY id LIMIT 1"
SINCE = """
UPDATE shops_shop SET name = 'The shop as it is now';
DELETE FROM builds_entry WHERE id = (SELECT max(id) FROM builds_entry)
"""
LEFT_OVER = "SELECT count(*) FROM pg_namespace WHERE nspname = 'incoming'"


@pytest.fixture
def shop(demo_shop, tmp_path, monkeypatch):
    """A database with the demo's shop, named otherwise since it was backed up."""
    monkeypatch.setenv("MOLE_STATE", str(tmp_path / "state"))
    then = sql(demo_shop, LINES)
    back_up(demo_shop, tmp_path / "shop.mole")
    sql(demo_shop, SINCE)
    return demo_shop, tmp_path / "shop.mole", then, sql(demo_shop, LINES)


def changed(file, dump=lambda text: text, about=lambda told: told):
    """The same backup with its dump or its description another; the checksum fits."""
    with tarfile.open(file) as tar:
        told, text = json.load(tar.extractfile(ABOUT)), tar.extractfile(DUMP).read()
    text = dump(text)
    told = about(told | {"dump_sha256": hashlib.sha256(text).hexdigest()})
    place = file.parent / "changed"
    place.mkdir(exist_ok=True)
    (place / ABOUT).write_text(json.dumps(told))
    (place / DUMP).write_bytes(text)
    other = file.with_name("changed.mole")
    with tarfile.open(other, "w") as tar:
        for part in (ABOUT, DUMP):
            tar.add(place / part, part)
    shutil.rmtree(place)
    return other


def test_a_dump_cut_anywhere_leaves_every_line(shop):
    url, file, _, now = shop
    for cut in range(CUTS):
        other = changed(file, dump=lambda text, at=(cut + 0.5) / CUTS: text[: int(len(text) * at)])
        with pytest.raises(BackupError, match="nothing was changed"):
            restore(url, other, replace=True)
        assert (sql(url, LINES), sql(url, LEFT_OVER)) == (now, "0"), cut


def test_a_disk_that_fills_up_leaves_every_line(shop):
    url, file, _, now = shop
    sql(
        url,
        """
        CREATE SCHEMA trial;
        CREATE FUNCTION trial.full() RETURNS event_trigger LANGUAGE plpgsql AS
            $$ BEGIN RAISE EXCEPTION 'could not extend file: No space left on device' USING ERRCODE = '53100'; END $$;
        CREATE EVENT TRIGGER full_disk ON ddl_command_start WHEN TAG IN ('CREATE INDEX') EXECUTE FUNCTION trial.full();
        """,
    )
    with pytest.raises(BackupError, match=r"nothing was changed: .*No space left"):
        restore(url, file, replace=True)
    assert (sql(url, LINES), sql(url, LEFT_OVER)) == (now, "0")


def test_a_backup_that_is_short_of_lines_or_cannot_be_worked_with_is_refused(shop):
    url, file, _, now = shop
    more = changed(file, about=lambda told: told | {"rows": told["rows"] | {"builds_entry": 1_000_000}})
    with pytest.raises(BackupError, match=r"Not every line came in.*builds_entry: \d+ for 1000000"):
        restore(url, more, replace=True)
    assert (sql(url, LINES), sql(url, LEFT_OVER)) == (now, "0")
    sql(url, """UPDATE builds_build SET engine_kept = '{"of": "another program"}'""")
    back_up(url, file)
    with pytest.raises(BackupError, match="cannot be worked with, and nothing was changed"):
        restore(url, file, replace=True)
    assert (sql(url, LINES), sql(url, LEFT_OVER)) == (now, "0")


def test_a_restore_killed_at_any_moment_leaves_one_or_the_other_whole(shop):
    url, file, then, now = shop
    here = environment_for("web.settings.demo", url, "only-for-tests") | {"MOLE_STATE": os.environ["MOLE_STATE"]}
    command = [sys.executable, "-m", "launch", "restore", str(file), "--replace"]
    began = time.monotonic()
    subprocess.run(command, env=here, cwd=HOME, check=True)
    whole_s = time.monotonic() - began
    assert sql(url, LINES) == then
    subprocess.run([*command[:-2], "--back"], env=here, cwd=HOME, check=True)
    assert sql(url, LINES) == now
    for kill in range(KILLS):
        with subprocess.Popen(command, env=here, cwd=HOME, start_new_session=True) as restoring:
            time.sleep(whole_s * (kill + 0.5) / KILLS)  # the moment is what is tried: any outcome of both is right
            os.killpg(restoring.pid, 9)
        found = sql(url, LINES)
        assert found in (now, then), kill
        if found == then:
            subprocess.run([*command[:-2], "--back"], env=here, cwd=HOME, check=True)
    subprocess.run(command, env=here, cwd=HOME, check=True)
    assert (sql(url, LINES), sql(url, LEFT_OVER)) == (then, "0"), "the next one clears away what was left"
