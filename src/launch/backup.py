"""./mole backup FILE and ./mole restore FILE: a shop's whole database as one file, with checksums, and back again.

The file is a tar: ``about.json`` (format, version of the application, of PostgreSQL and of the schema, checksum of the
dump) and ``database.dump`` (pg_dump's custom format, which pg_restore of any newer PostgreSQL reads).
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
from datetime import UTC, datetime
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from launch.database import shop_database
from launch.postgres import programs
from launch.serve import shop_environment
from launch.web import manage

FORMAT = "astute-mole/backup"
VERSION = 1
DUMP, ABOUT = "database.dump", "about.json"


class BackupError(RuntimeError):
    """The file cannot be made or read; the message says why."""


def main_backup(arguments: list[str]) -> int:
    """Write the shop's database into a file."""
    parser = argparse.ArgumentParser(prog="mole backup", description="Back the shop's database up into one file.")
    parser.add_argument("file", type=Path)
    options = parser.parse_args(arguments)
    return _told(lambda url: back_up(url, options.file))


def main_restore(arguments: list[str]) -> int:
    """Put a file's database in place of the shop's."""
    parser = argparse.ArgumentParser(prog="mole restore", description="Restore a backup into an empty shop.")
    parser.add_argument("file", type=Path)
    parser.add_argument("--replace", action="store_true", help="throw away what is in the database now")
    options = parser.parse_args(arguments)
    return _told(lambda url: restore(url, options.file, replace=options.replace))


def _told(work: Any) -> int:
    try:
        with shop_database() as url:
            work(url)
    except (RuntimeError, OSError, subprocess.CalledProcessError) as error:
        print(error, file=sys.stderr)
        return 1
    return 0


def back_up(url: str, file: Path) -> None:
    """Write the database at ``url`` into ``file``, which appears whole or not at all. Raises BackupError."""
    began = time.monotonic()
    with tempfile.TemporaryDirectory(dir=file.absolute().parent) as directory:
        dump = Path(directory) / DUMP
        _say(f"writing the database into {file}")
        _run("pg_dump", url, "--format=custom", "--no-owner", "--no-privileges", f"--file={dump}")
        about = {
            "format": FORMAT,
            "version": VERSION,
            "made": datetime.now(UTC).isoformat(timespec="seconds"),
            "application": application_version(),
            "migrations": _migrations(url),
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
    _say(f"{about['dump_bytes']:,} bytes in {time.monotonic() - began:.1f} s")


def restore(url: str, file: Path, *, replace: bool) -> None:
    """Put the database of a backup in place. Raises BackupError for a damaged or newer file, or a full database."""
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as directory:
        dump = Path(directory) / DUMP
        _refuse_newer(_unpacked(file, dump), url)
        if not replace and not is_empty(url):
            raise BackupError("There is something in this database already. --replace throws it away.")
        _say(f"reading {file} into the database")
        _sql(url, "DROP SCHEMA public CASCADE; CREATE SCHEMA public;")
        _run(
            "pg_restore", url, "--no-owner", "--no-privileges", "--exit-on-error", f"--dbname={_plain(url)}", str(dump)
        )
    # A backup of an older version is brought up to date.
    manage(shop_environment(url), "migrate", "--verbosity", "0")
    _say(f"restored in {time.monotonic() - began:.1f} s")


def _unpacked(file: Path, dump: Path) -> dict[str, Any]:
    """What a backup says of itself, its dump unpacked and held against its checksum."""
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


def _refuse_newer(about: dict[str, Any], url: str) -> None:
    known = set(_known_migrations(url))
    newer = [name for name in about.get("migrations", []) if name not in known]
    if about.get("version", 0) > VERSION or newer:
        raise BackupError(
            f"The backup is of a newer version of this program ({about.get('application')}; {', '.join(newer[:3])}). "
            "Update this one first."
        )


def is_empty(url: str) -> bool:
    """Whether nothing stands in the database: no tables, or no shop in them."""
    found = _sql(url, "SELECT to_regclass('public.shops_shop') IS NULL")
    return found == "t" or _sql(url, "SELECT NOT EXISTS (SELECT 1 FROM shops_shop)") == "t"


def _migrations(url: str) -> list[str]:
    if _sql(url, "SELECT to_regclass('public.django_migrations') IS NULL") == "t":
        return []
    return _sql(url, "SELECT app || '.' || name FROM django_migrations ORDER BY 1").split()


def _known_migrations(url: str) -> list[str]:
    """The migrations that this version of the program has."""
    command = [sys.executable, "-m", "launch.known_migrations"]
    done = subprocess.run(command, env=shop_environment(url), capture_output=True, text=True, check=True)
    return done.stdout.split()


def application_version() -> str:
    """The version of the program, where it is installed as a package."""
    try:
        return version("astute-mole")
    except PackageNotFoundError:
        return "of this checkout"


def _checksum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _plain(url: str) -> str:
    """The address without its password: other people see what a program is started with."""
    parts = urlsplit(url)
    return f"postgresql://{parts.username}@{parts.hostname}:{parts.port or 5432}{parts.path}"


def _environment(url: str) -> dict[str, str]:
    return {**os.environ, "PGPASSWORD": unquote(urlsplit(url).password or "")}


def _sql(url: str, text: str) -> str:
    command = [str(programs() / "psql"), "--no-psqlrc", "-qAtX", "-v", "ON_ERROR_STOP=1", "-c", text, _plain(url)]
    done = subprocess.run(command, env=_environment(url), capture_output=True, text=True)
    if done.returncode:
        raise BackupError(f"The database did not answer: {done.stderr.strip()}")
    return done.stdout.strip()


def _run(program: str, url: str, *arguments: str) -> None:
    own = [] if program == "pg_restore" else [_plain(url)]
    command = [str(programs() / program), *arguments, *own]
    done = subprocess.run(command, env=_environment(url), capture_output=True, text=True)
    if done.returncode:
        raise BackupError(f"{program} failed: {done.stderr.strip()[-800:]}")


def _say(what: str) -> None:
    print(what, file=sys.stderr, flush=True)
