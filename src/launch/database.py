"""The shop's database: its own cluster, a running one, or a PostgreSQL at an address."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from launch.places import state_directory
from launch.postgres import Cluster


class HeldError(RuntimeError):
    """Another process serves from the same place; the message says which."""


def shop_home() -> Path:
    """Return where a shop's own cluster, secret and logs are."""
    return state_directory() / "shop"


def elsewhere() -> str:
    """Return the address of a PostgreSQL run by others; empty for a cluster of our own."""
    return os.environ.get("DATABASE_URL", "").strip()


@contextmanager
def alone(home: Path, what: str) -> Iterator[IO[str]]:
    """Hold the lock of one place.

    Yields its file, in which the holder says what it is. Raises HeldError.
    """
    home.mkdir(parents=True, exist_ok=True)
    with (home / "lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            lock.seek(0)
            raise HeldError(lock.read().strip() or f"{what} runs here already") from None
        says(lock, f"{what} runs here already: process {os.getpid()}")
        try:
            yield lock
        finally:
            says(lock, "")


def left_behind(home: Path) -> bool:
    """Return whether a holder of this place's lock has not released it, running or killed."""
    lock = home / "lock"
    return lock.exists() and bool(lock.read_text().strip())


def says(lock: IO[str], words: str) -> None:
    """Write what the lock tells the next process that wants it."""
    lock.seek(0)
    lock.truncate()
    lock.write(words)
    lock.flush()


@contextmanager
def shop_database() -> Iterator[str]:
    """Yield the address of the shop's database, running as long as needed. Raises PostgresError.

    A database that ``./mole serve`` runs is used as it is, and left running.
    """
    if elsewhere():
        yield elsewhere()
        return
    home = shop_home()
    cluster = Cluster(home / "postgres")
    try:
        with alone(home, "./mole manage"):
            cluster.start()
            try:
                yield cluster.url
            finally:
                cluster.stop()
    except HeldError as held:
        if not cluster.join():
            raise HeldError(f"{held}; its database is not up yet. Try again in a moment.") from held
        yield cluster.url
