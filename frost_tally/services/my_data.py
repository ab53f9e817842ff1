"""Where the data is, and all of it at once: taken out, copied, brought back, deleted."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from ..core.errors import Refusal
from ..formats.document import Table, read_document, write_document
from ..household import everything, store, whole_file
from ..household.home import Home
from ..household.store import backup, head, restore
from .remembered import forget_pages

COPIES_SHOWN = 12


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


def whereabouts(home: Home, backups: Path) -> Whereabouts:
    """Where the data is."""
    database = database_of(home)
    sizes = [each.stat().st_size for each in (database, database.with_name(f"{database.name}-wal")) if each.exists()]
    return Whereabouts(database=database, size=sum(sizes), rows=store.rows(database), folder=backups, copies=_copies(backups))


def database_of(home: Home) -> Path:
    """The file that a home is kept in."""
    return Path(home.engine.url.database or "")


def _copies(backups: Path) -> tuple[Copy, ...]:
    found = sorted(backups.glob("*.db"), reverse=True)[:COPIES_SHOWN]
    return tuple(Copy(each.name, each.stat().st_size, datetime.fromtimestamp(each.stat().st_mtime, UTC)) for each in found)


def document_of(database: Path) -> Iterator[str]:
    """Everything as one JSON document, piece by piece."""
    tables = ((name, Table(tuple(columns), rows)) for name, columns, rows in everything.taken_out(database))
    return write_document(head(), everything.last_numbers(database), tables)


def copy_now(home: Home, backups: Path) -> Path:
    """A copy of everything, while it is in use; returns its path."""
    return backup(database_of(home), backups)


def coming(database: Path) -> Path:
    """Where what is to be brought back waits."""
    return database.with_name(f"{database.name}.coming")


def prepare_document(database: Path, content: bytes) -> Mapping[str, int]:
    """Make a document ready to be brought back; returns how many rows each table would have. Nothing else is changed. Raises: Refusal."""
    found = read_document(content)
    tables = {name: (table.columns, table.rows) for name, table in found.tables.items()}
    everything.build(found.version, tables, found.numbers, coming(database))
    return store.rows(coming(database))


def prepare_copy(home: Home, backups: Path, name: str) -> Mapping[str, int]:
    """Make a copy ready to be brought back; returns how many rows each table would have. Raises: Refusal when there is no such copy."""
    if name not in {each.name for each in _copies(backups)}:
        raise Refusal("There is no such copy.")
    target = coming(database_of(home))
    try:
        restore(backups / name, target, backups)
    except whole_file.StoreError as problem:
        raise Refusal(str(problem)) from problem
    return store.rows(target)


def bring_back(home: Home, backups: Path) -> Path:
    """Put what was made ready in place of everything; returns the copy of what was there. Raises: Refusal when nothing is ready."""
    ready = coming(database_of(home))
    if not ready.exists():
        raise Refusal("Nothing is ready to be brought back: choose it again.")
    return _all_changed(home, lambda: everything.put_in_place(home.engine, ready, backups))


def delete_all(home: Home, backups: Path, typed: str) -> Path:
    """Delete everything, when somebody typed the word for it; returns the copy that is kept. Raises: Refusal."""
    if typed.strip().casefold() != "delete":
        raise Refusal("Type the word delete, if you want everything to go.", "word")
    return _all_changed(home, lambda: everything.delete_all(home.engine, backups))


def _all_changed(home: Home, act: Callable[[], Path]) -> Path:
    kept = act()
    home.replaced()
    forget_pages()
    leave(home)
    return kept


def leave(home: Home) -> None:
    """Away with what was made ready."""
    whole_file.discard(coming(database_of(home)))
