"""A data file that is made beside its place and put there whole, with errors said as sentences. Why: docs/decisions/0049."""

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

PATIENCE_S = 5.0
"""How long somebody else's lock is waited for."""
LOCKED, FULL = "somebody else keeps it locked", "there is no room left on the disk"
REASONS = {"is locked": LOCKED, "disk is full": FULL, "No space left": FULL}


class StoreError(RuntimeError):
    """The data cannot be used, with a sentence for a person."""


def folder(folder: Path) -> None:
    """A folder that only its owner reads. Raises: StoreError."""
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    except OSError as problem:
        raise StoreError(f"{folder} cannot be used as a folder: {reason(problem)}.") from problem
    if not os.access(folder, os.W_OK | os.X_OK):
        raise StoreError(f"{folder} cannot be written to: give yourself that right, or set FROST_TALLY_DATA_DIR.")


def create(file: Path) -> None:
    """An empty file that only its owner reads."""
    discard(file)
    os.close(os.open(file, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))


def sync(place: Path) -> None:
    """On the disk, not only on its way there."""
    handle = os.open(place, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def settle(database: Path) -> None:
    """Everything into the file itself, no log beside it."""
    with closing(sqlite3.connect(database, timeout=PATIENCE_S)) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        if connection.execute("PRAGMA journal_mode=DELETE").fetchone()[0] != "delete":
            raise sqlite3.OperationalError("database is locked")


def discard(database: Path, only_logs: bool = False) -> None:
    """Away with a database file and its logs, or with the logs alone."""
    for end in ("-wal", "-shm", "-journal", *([] if only_logs else [""])):
        database.with_name(database.name + end).unlink(missing_ok=True)


def put(beside: Path, database: Path) -> None:
    """Put made data in place in one step; a killed process leaves the one or the other."""
    with plainly(f"{database} could not be replaced. It is unchanged", beside):
        settle(beside)
        sync(beside)
        if database.exists():
            try:
                settle(database)
            except sqlite3.OperationalError:
                raise  # somebody has it open
            except sqlite3.DatabaseError:
                discard(database, only_logs=True)  # it is no sound database, and was kept as it was found
        beside.replace(database)
        sync(database.parent)


@contextmanager
def plainly(words: str, beside: Path) -> Iterator[None]:
    """What goes wrong inside is said in a sentence; what was begun beside goes."""
    try:
        yield
    except (sqlite3.Error, SQLAlchemyError, OSError, StoreError) as problem:
        discard(beside)
        raise StoreError(f"{words}: {reason(problem)}.") from problem


def reason(problem: BaseException) -> str:
    said = str(getattr(problem, "strerror", None) or getattr(problem, "orig", None) or problem).rstrip(".")
    return next((words for part, words in REASONS.items() if part in said), said)
