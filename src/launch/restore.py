"""./mole restore FILE: read a backup in beside the present data, check it, then swap.

The dump is read into a schema of its own (``incoming``) in one transaction. There its rows are counted, it is migrated,
and a build of each shop is evaluated. A second transaction swaps the names of the schemas. A broken dump, a full disk
or a kill at any moment leaves the present data. What was replaced is kept for a day, and ``--back`` swaps it in again.
"""

import argparse
import contextlib
import re
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import IO, cast
from urllib.parse import quote, urlsplit

import psycopg

from launch.backup import DUMP, VERSION, BackupError, is_empty, known_migrations, row_counts, say, told, unpacked
from launch.postgres import programs
from launch.serve import shop_environment
from launch.sql import environment_of, plain, sql
from launch.web import manage

INCOMING, ASIDE = "incoming", "mole_aside"
BEFORE = "before_%Y%m%dt%H%M%S%f"
OF_THE_SCHEMA = re.compile(r" (SCHEMA - public|COMMENT - SCHEMA public)")
KEPT_FOR = timedelta(days=1)
SCHEMAS = "SELECT nspname FROM pg_namespace WHERE nspname LIKE 'before\\_%' ORDER BY 1"
# The search extension stays where pages look for it; a schema is never dropped with it inside.
HAS_EXTENSION = "SELECT extname FROM pg_extension WHERE extname = 'pg_trgm'"


def main(arguments: list[str]) -> int:
    """Replace the shop's database by that of a file."""
    parser = argparse.ArgumentParser(prog="mole restore", description="Restore a backup.")
    parser.add_argument("file", type=Path, nargs="?")
    parser.add_argument("--replace", action="store_true", help="put it in place of what is there, which is kept a day")
    parser.add_argument("--back", action="store_true", help="swap in again what the last restore replaced")
    options = parser.parse_args(arguments)
    if options.back == bool(options.file):
        parser.error("name a backup, or --back")
    if options.back:
        return told(back)
    return told(lambda url: restore(url, options.file, replace=options.replace))


def restore(url: str, file: Path, *, replace: bool) -> None:
    """Put the database of a backup in place, whole or not at all. Raises BackupError."""
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as directory:
        dump = Path(directory) / DUMP
        about = unpacked(file, dump)
        _refuse_newer(about, url)
        there = not is_empty(url)
        if there and not replace:
            raise BackupError("There is something in this database already. --replace puts the backup in its place.")
        say(f"reading {file} in beside what is there")
        _drop(url, INCOMING)
        _read_in(url, dump)
    try:
        say("looking it over: lines counted, brought up to date, a build of each shop worked out")
        is_up_to_date = _look_over(url, about.get("rows", {}))
        _swap(url, INCOMING, keep=there)
    except BaseException:
        _drop(url, INCOMING)
        raise
    if not is_up_to_date:
        manage(shop_environment(url), "migrate", "--verbosity", "0")
    say(f"restored in {time.monotonic() - began:.1f} s")
    if there:
        say("What was there before is kept for a day: ./mole restore --back swaps it in again.")


def back(url: str) -> None:
    """Swap in again what the last restore replaced. Raises BackupError where nothing is kept."""
    kept = sql(url, SCHEMAS).split()
    if not kept:
        raise BackupError("Nothing is kept that a restore replaced: it is kept for a day.")
    _swap(url, kept[-1], keep=True)
    # The program may have changed since.
    manage(shop_environment(url), "migrate", "--verbosity", "0")
    say(f"What was there before the restore of {_made(kept[-1]):%d %B, %H:%M} UTC is back.")


def forget_old(url: str, now: datetime | None = None) -> None:
    """Delete what was replaced more than a day ago."""
    for schema in sql(url, SCHEMAS).split():
        if (now or datetime.now(UTC)) - _made(schema) > KEPT_FOR:
            _drop(url, schema)


def _made(schema: str) -> datetime:
    return datetime.strptime(schema, BEFORE).replace(tzinfo=UTC)


def _refuse_newer(about: dict[str, object], url: str) -> None:
    known = set(known_migrations(url))
    made_with = about.get("migrations", [])
    newer = [name for name in made_with if name not in known] if isinstance(made_with, list) else []
    version = about.get("version", 0)
    if (isinstance(version, int) and version > VERSION) or newer:
        raise BackupError(
            f"The backup is of a newer version of this program ({about.get('application')}; {', '.join(newer[:3])}). "
            "Update this one first."
        )


def _drop(url: str, schema: str) -> None:
    steps = [_extension_into(url, "public"), f"DROP SCHEMA IF EXISTS {schema} CASCADE"]
    sql(url, "; ".join(filter(None, steps)))


def _extension_into(url: str, schema: str) -> str:
    """Return the statement that moves the extension with its users; empty if not installed."""
    return f"ALTER EXTENSION pg_trgm SET SCHEMA {schema}" if sql(url, HAS_EXTENSION) else ""


def _read_in(url: str, dump: Path) -> None:
    """Read a dump into the schema ``incoming`` in one transaction; a broken one leaves nothing."""
    before = f"BEGIN; ALTER SCHEMA public RENAME TO {ASIDE}; CREATE SCHEMA public; {_extension_into(url, 'public')};\n"
    # The dump may have brought the extension itself, so ask again inside.
    after = f"""
        ALTER SCHEMA public RENAME TO {INCOMING}; ALTER SCHEMA {ASIDE} RENAME TO public;
        DO $$ BEGIN IF EXISTS ({HAS_EXTENSION}) THEN ALTER EXTENSION pg_trgm SET SCHEMA public; END IF; END $$;
        COMMIT;
    """
    command = [str(programs() / "psql"), "--no-psqlrc", "-qX", "-v", "ON_ERROR_STOP=1", "-f", "-", plain(url)]
    with tempfile.TemporaryFile("w+") as errors:
        psql = subprocess.Popen(
            command, env=environment_of(url), stdin=subprocess.PIPE, stdout=subprocess.DEVNULL, stderr=errors
        )
        try:
            faults = _fed(psql, dump, before, after)
        except BaseException:
            psql.kill()
            psql.wait()
            raise
        if psql.wait() or faults:
            errors.seek(0)
            words = faults or errors.read().strip()[-800:]
            raise BackupError(f"The backup could not be read in, and nothing was changed: {words}")


def _fed(psql: subprocess.Popen[bytes], dump: Path, before: str, after: str) -> str:
    """Give psql the dump between two texts; a dump that breaks off is not committed.

    Returns the complaints of pg_restore.
    """
    with (
        contextlib.suppress(BrokenPipeError),
        cast("IO[bytes]", psql.stdin) as into,
    ):  # psql ended: its own message says why
        into.write(before.encode())
        into.flush()
        if faults := _written_out(dump, psql):
            return faults
        into.write(after.encode())
    return ""


def _written_out(dump: Path, into: subprocess.Popen[bytes]) -> str:
    """Have pg_restore write the dump as SQL into psql. Returns its complaints."""
    listed = subprocess.run([str(programs() / "pg_restore"), "--list", str(dump)], capture_output=True, text=True)
    if listed.returncode:
        return listed.stderr.strip()[-800:]
    # The schema itself already exists.
    kept = [
        line
        for line in listed.stdout.splitlines()
        if not re.search(r" (SCHEMA - public|COMMENT - SCHEMA public)", line)
    ]
    with tempfile.NamedTemporaryFile("w") as contents:
        contents.write("\n".join(kept))
        contents.flush()
        command = [str(programs() / "pg_restore"), "--no-owner", "--no-privileges", "-L", contents.name, "-f", "-"]
        done = subprocess.run([*command, str(dump)], stdout=into.stdin, stderr=subprocess.PIPE, text=True)
    return done.stderr.strip()[-800:] if done.returncode else ""


def _look_over(url: str, rows: dict[str, int]) -> bool:
    """Compare the imported data with the backup's description, and try it. Raises BackupError.

    Returns False for a backup of an empty database, which has nothing to check.
    """
    with psycopg.connect(url) as connection:
        has = row_counts(connection, INCOMING)
    short = [f"{table}: {has.get(table)} for {count}" for table, count in rows.items() if has.get(table) != count]
    if short:
        raise BackupError(f"Not every line came in, and nothing was changed ({'; '.join(short[:3])}).")
    if "django_migrations" not in has:
        return False
    path = "options=" + quote(f"-c search_path={INCOMING},public")
    environment = shop_environment(f"{url}{'&' if urlsplit(url).query else '?'}{path}")
    manage(environment, "migrate", "--verbosity", "0")
    done = subprocess.run([sys.executable, "-m", "launch.look_over"], env=environment, capture_output=True, text=True)
    if done.returncode:
        errors = done.stderr.strip()[-800:]
        raise BackupError(f"What was read in cannot be worked with, and nothing was changed: {errors}")
    say(done.stdout.strip())
    return True


def _swap(url: str, schema: str, *, keep: bool) -> None:
    """Swap the names of two schemas in one transaction; the old public one is kept, or dropped."""
    before = datetime.now(UTC).strftime(BEFORE)
    steps = [f"ALTER SCHEMA public RENAME TO {before}", f"ALTER SCHEMA {schema} RENAME TO public"]
    steps += [_extension_into(url, "public")]
    steps += [] if keep else [f"DROP SCHEMA {before} CASCADE"]
    sql(url, "BEGIN; " + "; ".join(filter(None, steps)) + "; COMMIT;")
