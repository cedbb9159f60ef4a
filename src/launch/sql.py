"""PostgreSQL's own programs on a database address; its password is never on a command line."""

import os
import subprocess
from urllib.parse import unquote, urlsplit

from launch.postgres import programs


class AskError(RuntimeError):
    """The database, or one of PostgreSQL's programs, failed; the message says why."""


def plain(url: str) -> str:
    """Return the address without its password, since others can see a program's arguments."""
    parts = urlsplit(url)
    query = f"?{parts.query}" if parts.query else ""
    return f"postgresql://{parts.username}@{parts.hostname}:{parts.port or 5432}{parts.path}{query}"


def environment_of(url: str) -> dict[str, str]:
    """Return the environment for one of PostgreSQL's programs, which holds the password."""
    return {**os.environ, "PGPASSWORD": unquote(urlsplit(url).password or "")}


def sql(url: str, text: str) -> str:
    """Return the answer of a statement, columns separated by ``|``. Raises AskError."""
    command = [str(programs() / "psql"), "--no-psqlrc", "-qAtX", "-v", "ON_ERROR_STOP=1", "-c", text, plain(url)]
    done = subprocess.run(command, env=environment_of(url), capture_output=True, text=True)
    if done.returncode:
        raise AskError(f"The database did not answer: {done.stderr.strip()}")
    return done.stdout.strip()


def run(program: str, url: str, *arguments: str) -> None:
    """Run one of PostgreSQL's programs on a database. Raises AskError."""
    command = [str(programs() / program), *arguments, plain(url)]
    done = subprocess.run(command, env=environment_of(url), capture_output=True, text=True)
    if done.returncode:
        raise AskError(f"{program} failed: {done.stderr.strip()[-800:]}")
