"""Where the data is, and all of it at once: taken out, copied, brought back, deleted."""

import re
import secrets
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from time import time

from ...core.errors import Refusal
from ...formats.document import Table, read_document, write_document
from ...household import aside, everything, store, whole_file
from ...household.aside import Aside as Aside
from ...household.snapshot import Snapshot
from ...household.sound import check_sound
from ...household.store import backup, head, restore
from ...household.unit_of_work import Household

COPIES_SHOWN = 12
MOST_WAITING, LONGEST_WAIT_S = 6, 86_400.0
NUMBER = re.compile("[0-9a-f]{16}")


@dataclass(frozen=True)
class Copy:
    """A copy of the data: its name, size in bytes, and when it was made."""

    name: str
    size: int
    made_at: datetime


@dataclass(frozen=True, kw_only=True)
class Whereabouts:
    """The file of the data, its size in bytes, how many rows each table has, and the latest copies with their folder."""

    database: Path
    size: int
    rows: Mapping[str, int]
    folder: Path
    copies: tuple[Copy, ...]


def whereabouts(household: Household, backups: Path) -> Whereabouts:
    """Where the data is."""
    database = database_of(household)
    sizes = [each.stat().st_size for each in (database, database.with_name(f"{database.name}-wal")) if each.exists()]
    return Whereabouts(database=database, size=sum(sizes), rows=store.rows(database), folder=backups, copies=_copies(backups))


def database_of(household: Household) -> Path:
    """The file that a home is kept in."""
    return Path(household.engine.url.database or "")


def _copies(backups: Path) -> tuple[Copy, ...]:
    found = sorted(backups.glob("*.db"), reverse=True)[:COPIES_SHOWN]
    return tuple(Copy(each.name, each.stat().st_size, datetime.fromtimestamp(each.stat().st_mtime, UTC)) for each in found)


def document_of(database: Path) -> Iterator[str]:
    """Everything as one JSON document, piece by piece."""
    tables = ((name, Table(tuple(columns), rows)) for name, columns, rows in everything.taken_out(database))
    return write_document(head(), everything.last_numbers(database), tables)


def copy_now(household: Household, backups: Path) -> Path:
    """A copy of everything, while it is in use; returns its path."""
    return backup(database_of(household), backups)


@dataclass(frozen=True, kw_only=True)
class Ready:
    """What is ready to be brought back: the number it waits under, its name, how many rows each table would have, and the tables that a
    document did not have at all.
    """

    number: str
    name: str
    rows: Mapping[str, int]
    missing: tuple[str, ...]


def waiting(database: Path, number: str = "*") -> tuple[Path, ...]:
    """Where what is to be brought back waits, one file for each preview; nothing for what is no number of one."""
    known = number == "*" or NUMBER.fullmatch(number)
    return tuple(sorted(database.parent.glob(f"{database.name}.coming-{number}"))) if known else ()


def _next(database: Path) -> Path:
    """Where the next preview's file goes; those that nobody wanted for a day, or that are many, are gone."""
    others = [each for each in waiting(database) if NUMBER.fullmatch(each.name.rpartition("-")[2])]
    latest = sorted(others, key=lambda each: each.stat().st_mtime, reverse=True)
    for each in (each for i, each in enumerate(latest) if i >= MOST_WAITING or time() - each.stat().st_mtime > LONGEST_WAIT_S):
        _leave(each)
    return database.with_name(f"{database.name}.coming-{secrets.token_hex(8)}")


def _leave(file: Path) -> None:
    whole_file.discard(file)
    file.with_name(f"{file.name}.lock").unlink(missing_ok=True)


def prepare_document(database: Path, content: bytes, name: str = "") -> Ready:
    """Make a document ready to be brought back. Nothing else is changed. Raises: Refusal."""
    found = read_document(content)
    tables = {name: (table.columns, table.rows) for name, table in found.tables.items()}
    file = _next(database)
    with _whole_or_gone(file):
        missing = everything.build(found.version, tables, found.numbers, file)
        return _ready(file, name or "the document", missing)


def prepare_copy(household: Household, backups: Path, name: str) -> Ready:
    """Make a copy ready to be brought back. Raises: Refusal when there is no such copy, or no household can be made of it."""
    if name not in {each.name for each in _copies(backups)}:
        raise Refusal("There is no such copy.")
    file = _next(database_of(household))
    with _whole_or_gone(file):
        try:
            restore(backups / name, file, backups)
            check_sound(file)
        except whole_file.StoreError as problem:
            raise Refusal(str(problem)) from problem
        file.with_name(f"{file.name}.lock").unlink(missing_ok=True)
        return _ready(file, name, ())


@contextmanager
def _whole_or_gone(file: Path) -> Iterator[None]:
    """What is made ready stands there whole, or nothing of it is left, whatever went wrong."""
    try:
        yield
    except BaseException:
        _leave(file)
        raise


def _ready(file: Path, name: str, missing: Sequence[str]) -> Ready:
    everything.tell(file, name, missing)
    return ready(file)


def ready(file: Path) -> Ready:
    """What a waiting file has."""
    name, missing = everything.told(file)
    return Ready(number=file.name.rpartition("-")[2], name=name, rows=store.rows(file), missing=missing)


def ready_under(household: Household, number: str) -> Path:
    """The file that waits under a number. Raises: Refusal when nothing does."""
    found = waiting(database_of(household), number)
    if not found:
        raise Refusal("Nothing is ready to be brought back: choose it again.")
    return found[0]


def bring_back(household: Household, backups: Path, number: str, seen_revision: int) -> Path:
    """Put what waits under a number in place of everything; returns the copy of what was there.

    Raises: Refusal when nothing waits there; Stale when somebody decided anything since the preview: it goes on waiting then.
    """
    file = ready_under(household, number)
    kept = household.bring_back(file, backups, seen_revision)
    _leave(file)
    return kept


def delete_all(household: Household, backups: Path, typed: str) -> Path:
    """Delete everything, when somebody typed the word for it, also what waits to be brought back; returns the copy that is kept.

    Raises: Refusal.
    """
    if typed.strip().casefold() != "delete":
        raise Refusal("Type the word delete, if you want everything to go.", "word")
    kept = household.delete_all(backups)
    for file in waiting(database_of(household)):
        _leave(file)
    return kept


def put_aside(snapshot: Snapshot) -> tuple[Aside, ...]:
    """Values that could not be, and wait for somebody to look at them."""
    return aside.put_aside(snapshot.log)


def settle(household: Household, number: int, words: str, seen_revision: int) -> int:
    """Away with one that somebody looked at; returns the number to undo that by. Raises: Refusal; Stale."""
    with household.deciding(words, seen_revision) as session:
        aside.settle(session, number)
    return session.number


def leave(household: Household, number: str) -> None:
    """Away with what waits under a number."""
    for file in waiting(database_of(household), number):
        _leave(file)
