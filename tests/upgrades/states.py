"""Databases of earlier versions: made, kept, brought up to date, and held against a new one."""

import os
import re
import subprocess
import sys
from pathlib import Path
from urllib.parse import urlsplit

from launch.places import HOME
from launch.postgres import programs
from launch.sql import environment_of, plain, run, sql

KEPT = Path(__file__).parent / "kept"

# What there is, by its words: names that Django makes of table and columns belong to it, the order of columns does not.
COLUMNS = """
SELECT table_name, column_name, data_type, character_maximum_length, is_nullable, column_default
FROM information_schema.columns WHERE table_schema = 'public' ORDER BY 1, 2
"""
INDEXES = "SELECT tablename, indexdef FROM pg_indexes WHERE schemaname = 'public' ORDER BY 1, 2"
CONSTRAINTS = """
SELECT conrelid::regclass, conname, pg_get_constraintdef(oid) FROM pg_constraint
WHERE connamespace = 'public'::regnamespace AND contype <> 'n' ORDER BY 1, 2
"""


# A database that was dumped and read in again writes the same conditions with other casts and brackets.
CASTS = re.compile(r"::(character varying|text)(\[\])?|[()]")


def database(server: str, name: str) -> str:
    """The address of a new, empty database on a server."""
    sql(server, f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')
    sql(server, f'CREATE DATABASE "{name}"')
    return urlsplit(server)._replace(path=f"/{name}").geturl()


def django(home: Path, url: str, *arguments: str) -> str:
    """Run a Django command of the program in ``home``; raises RuntimeError."""
    environment = os.environ | {"DATABASE_URL": url, "PYTHONPATH": f"{home / 'src'}:{home}", "MOLE_HOME": str(home)}
    package = "web" if (home / "src/web").exists() else "bench"
    settings = {"DJANGO_SETTINGS_MODULE": f"{package}.settings.demo", "SECRET_KEY": "only-for-tests"}
    command = [sys.executable, "-m", "django", *arguments]
    done = subprocess.run(command, env=environment | settings, cwd=home, capture_output=True, text=True, check=False)
    if done.returncode:
        raise RuntimeError(done.stderr.strip()[-600:])
    return done.stdout


def keep(url: str, file: Path) -> None:
    """Write a database into a small file."""
    file.parent.mkdir(exist_ok=True)
    run("pg_dump", url, "--format=custom", "--compress=9", "--no-owner", "--no-privileges", f"--file={file}")


def brought_back(file: Path, url: str) -> None:
    """Read a kept database into an empty one."""
    command = [str(programs() / "pg_restore"), "--no-owner", "--exit-on-error", f"--dbname={plain(url)}", str(file)]
    subprocess.run(command, env=environment_of(url), check=True)


def schema_of(url: str) -> set[str]:
    """Every column, index and constraint of a database, a line each."""
    lines = {line for query in (COLUMNS, INDEXES, CONSTRAINTS) for line in sql(url, query).splitlines()}
    return {CASTS.sub("", line) for line in lines}


def faults_of(url: str, new: set[str], *, pages: bool = True, every_page: bool = True) -> list[str]:
    """What is wrong with an upgraded database: its schema against a new one, its pages."""
    try:
        django(HOME, url, "migrate", "--verbosity", "0")
        has = schema_of(url)
        different = [f"missing: {line}" for line in sorted(new - has)] + [f"left: {line}" for line in sorted(has - new)]
        return different + (opened(url, every_page=every_page) if pages else [])
    except RuntimeError as error:
        return [str(error)]


def opened(url: str, *, every_page: bool) -> list[str]:
    """The pages that do not answer, in a process of its own on that database."""
    environment = os.environ | {"DATABASE_URL": url, "DJANGO_SETTINGS_MODULE": "web.settings.test"}
    command = [sys.executable, "-m", "tests.upgrades.pages", *([] if every_page else ["--few"])]
    done = subprocess.run(command, env=environment, cwd=HOME, capture_output=True, text=True, check=False)
    return done.stdout.splitlines() + ([done.stderr.strip()[-600:]] if done.returncode else [])


def refused_in_words(url: str) -> list[str]:
    """What is wrong with how the first day's database is refused: it must stay as it is."""
    before = schema_of(url)
    try:
        django(HOME, url, "migrate", "--verbosity", "0")
    except RuntimeError as error:
        said = str(error)
        wrong = [] if "very first version" in said and "Traceback" not in said else [said]
        return wrong + (["it was changed"] if schema_of(url) != before else [])
    return ["it was not refused"]
