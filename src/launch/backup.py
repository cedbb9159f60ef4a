"""./mole backup FILE: a shop's whole database as one file with checksums.

The file is a tar: ``about.json`` (format, version of the application, of PostgreSQL and of the schema, checksum of the
dump, row count of each table) and ``database.dump`` (pg_dump's custom format, which pg_restore of any newer PostgreSQL
reads).
"""

import argparse
import hashlib
import io
import json
import os
import subprocess
import sys
import tarfile
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Any

import psycopg
from psycopg.sql import SQL, Identifier

from launch.database import shop_database
from launch.serve import shop_environment
from launch.sql import AskError, run, sql

FORMAT = "astute-mole/backup"
VERSION = 1
# What a restore replaced is kept for a day, and is not part of a backup.
NOT_BACKED_UP = ("before_*", "incoming")
NO_OWNER = ("--no-owner", "--no-privileges")
DUMP, ABOUT = "database.dump", "about.json"


class BackupError(AskError):
    """The file cannot be made or read; the message says why."""


def main_backup(arguments: list[str]) -> int:
    """Write the shop's database into a file."""
    parser = argparse.ArgumentParser(prog="mole backup", description="Back the shop's database up into one file.")
    parser.add_argument("file", type=Path)
    options = parser.parse_args(arguments)
    return told(lambda url: back_up(url, options.file))


def told(work: Callable[[str], None]) -> int:
    """Do something with the shop's database and print what went wrong. Returns an exit code."""
    try:
        with shop_database() as url:
            work(url)
    except (RuntimeError, OSError, subprocess.CalledProcessError) as error:
        print(error, file=sys.stderr)
        return 1
    return 0


def back_up(url: str, file: Path) -> None:
    """Write the database at ``url`` into ``file``, which appears whole or not at all.

    Raises BackupError.
    """
    began = time.monotonic()
    with tempfile.TemporaryDirectory(dir=file.absolute().parent) as directory:
        dump = Path(directory) / DUMP
        say(f"writing the database into {file}")
        about = {
            "format": FORMAT,
            "version": VERSION,
            "made": datetime.now(UTC).isoformat(timespec="seconds"),
            "application": application_version(),
            "migrations": _migrations(url),
            "rows": _dumped(url, dump),
            "dump_sha256": _checksum(dump),
            "dump_bytes": dump.stat().st_size,
        }
        whole = Path(directory) / "whole"
        with tarfile.open(whole, "w") as tar:
            text = json.dumps(about, indent=2).encode()
            entry = tarfile.TarInfo(ABOUT)
            entry.size, entry.mtime = len(text), int(time.time())
            tar.addfile(entry, io.BytesIO(text))
            tar.add(dump, DUMP)
        whole.chmod(0o600)
        os.replace(whole, file)
    say(f"{about['dump_bytes']:,} bytes in {time.monotonic() - began:.1f} s")


def _dumped(url: str, dump: Path) -> dict[str, int]:
    """Write the dump, and count each table's rows in the same snapshot while others write."""
    options = [f"--exclude-schema={schema}" for schema in NOT_BACKED_UP]
    try:
        with psycopg.connect(url) as connection:
            connection.isolation_level = psycopg.IsolationLevel.REPEATABLE_READ
            (snapshot,) = connection.execute("SELECT pg_export_snapshot()").fetchone() or ("",)
            run("pg_dump", url, "--format=custom", f"--snapshot={snapshot}", *options, *NO_OWNER, f"--file={dump}")
            return row_counts(connection, "public")
    except psycopg.Error as error:
        raise BackupError(f"The database did not answer: {error}") from error


def unpacked(file: Path, dump: Path) -> dict[str, Any]:
    """Return a backup's description, after unpacking its dump and verifying the checksum."""
    try:
        with tarfile.open(file) as tar:
            about: dict[str, Any] = json.load(tar.extractfile(ABOUT) or io.BytesIO(b"{}"))
            source = tar.extractfile(DUMP)
            if source is None:
                raise BackupError(f"{file} holds no database.")
            with dump.open("wb") as target:
                while block := source.read(1 << 20):
                    target.write(block)
    except (tarfile.TarError, KeyError, ValueError) as error:
        raise BackupError(f"{file} is no backup of this program, or it is cut off: {error}") from error
    if about.get("format") != FORMAT:
        raise BackupError(f"{file} is no backup of this program.")
    if _checksum(dump) != about.get("dump_sha256"):
        raise BackupError(f"{file} is damaged: what is in it is not what was written. Use another backup.")
    return about


def is_empty(url: str) -> bool:
    """Return whether the database is empty: no tables, or no shop in them."""
    found = sql(url, "SELECT to_regclass('public.shops_shop') IS NULL")
    return found == "t" or sql(url, "SELECT NOT EXISTS (SELECT 1 FROM shops_shop)") == "t"


def row_counts(connection: psycopg.Connection[Any], schema: str) -> dict[str, int]:
    """Return how many rows each table of a schema has [1]."""
    tables = connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = %s", [schema]).fetchall()
    counted = SQL("SELECT count(*) FROM {}")
    counts = {}
    for (table,) in sorted(tables):
        found = connection.execute(counted.format(Identifier(schema, table))).fetchone()
        counts[table] = found[0] if found else 0
    return counts


def _migrations(url: str) -> list[str]:
    if sql(url, "SELECT to_regclass('public.django_migrations') IS NULL") == "t":
        return []
    return sql(url, "SELECT app || '.' || name FROM django_migrations ORDER BY 1").split()


def known_migrations(url: str) -> list[str]:
    """Return the migrations of this version of the program."""
    command = [sys.executable, "-m", "launch.known_migrations"]
    done = subprocess.run(command, env=shop_environment(url), capture_output=True, text=True, check=True)
    return done.stdout.split()


def application_version() -> str:
    """Return the version of the program."""
    try:
        return version("astute-mole")
    except PackageNotFoundError:
        return "of this checkout"


def _checksum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def say(what: str) -> None:
    """Print progress on standard error."""
    print(what, file=sys.stderr, flush=True)
