"""The SQLite file: opened whole or not at all, brought up to date on a copy, copied and restored; one user of its data at a time.

Why: docs/decisions/0032.
"""

import sqlite3
import time
from collections.abc import Callable, Mapping
from contextlib import closing
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import URL, Connection, Engine, NullPool, create_engine, event
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.pool import ConnectionPoolEntry

from . import whole_file
from .models import Base
from .sound import senseless
from .state import follow
from .strict import hold, of_strict_types
from .whole_file import StoreError
from .written import arm, counted

if TYPE_CHECKING:
    from filelock import FileLock

OLD_PART_S = 3600.0
MIGRATIONS = Path(__file__).parent / "migrations"


def claim(database: Path) -> "FileLock":
    """Be the one who serves or replaces this data, until the lock is released or the process ends. Raises: StoreError."""
    from filelock import FileLock, Timeout  # who only reads does without

    whole_file.folder(database.parent)
    lock = FileLock(f"{database}.lock", timeout=0, thread_local=False, is_singleton=True, mode=0o600)
    try:
        lock.acquire()
    except Timeout:
        raise StoreError(f"Frost Tally is running on {database} already: stop that one first, or use it.") from None
    except OSError as problem:
        raise StoreError(f"{database.parent} cannot be written to: {whole_file.reason(problem)}.") from problem
    return lock


def open_store(database: Path, backups: Path, *, looked_through: bool = True) -> Engine:
    """Open (or create) the database with today's tables; one with older tables is copied to `backups` before it is replaced.

    Raises: StoreError for a file that is damaged, foreign, or of a newer version; it is unchanged then. Damage within its pages is found
    where they are `looked_through`, which takes the longer the longer the log is, else by whoever reads them.
    """
    whole_file.folder(database.parent)
    if version_of(database, backups, looked_through=looked_through) != head():
        with claim(database):
            _bring_up_to_date(database, backups)
    elif lacking := _lacks(database):
        raise StoreError(f"{database} is not whole: {lacking}. It is unchanged. {_newest(backups, database)}".strip())
    elif _has_senseless(database):
        hold_today(database)
    database.chmod(0o600)
    engine = create_engine(
        _address(database),
        connect_args={"timeout": whole_file.PATIENCE_S},
        hide_parameters=True,  # what a statement was given may be the owner's words, and does not go into traces
        max_overflow=-1,  # a page holds a reading while it asks for another connection: a limit would make all of them wait for each other
    )
    event.listen(engine, "connect", _pragmas)
    return engine


def backup(database: Path, backups: Path, how: str = "") -> Path:
    """Copy a database that may be in use; returns the copy's path, whose name ends with `how`.

    Raises: StoreError when there is nothing whole to copy.
    """
    if not database.exists():
        raise StoreError(f"There is no data to copy yet at {database}.")
    whole_file.folder(backups)
    for part in backups.glob("*.part"):
        if time.time() - part.stat().st_mtime > OLD_PART_S:
            part.unlink(missing_ok=True)
    target = _copy_of(database, backups, how)
    part = target.with_suffix(".part")
    with whole_file.plainly(f"{database} could not be copied", part):
        _copy(database, part)
        whole_file.settle(part)
        whole_file.sync(part)
        part.replace(target)
        whole_file.sync(backups)
    return target


def restore(
    copy: Path, database: Path, backups: Path, tell: Callable[[Mapping[str, int]], None] = lambda rows: None
) -> Path | None:
    """Put a copy in the database's place, brought up to date and checked; returns where what was there before is kept, if anything.

    `tell` hears how many rows of each table the copy has, before anything is changed.
    Raises: StoreError for a file that is not whole Frost Tally data, or while somebody uses the data; nothing is changed then.
    """
    if not copy.is_file():
        raise StoreError(f"{copy} is not a file.")
    if database.exists() and copy.samefile(database):
        raise StoreError(f"{copy} is the data itself. Copies are in {backups}.")
    with claim(database):
        version, beside = version_of(copy, backups), _beside(database)
        if not version:
            raise StoreError(f"{copy} is empty.")
        with whole_file.plainly(f"{copy} could not be read. Nothing was changed", beside):
            _copy(copy, beside)
            migrate(beside)
            check_store(beside)
            follow(database, beside)
            tell(rows(beside))
        kept = _keep(database, backups) if database.exists() else None
        whole_file.put(beside, database)
        return kept


def _bring_up_to_date(database: Path, backups: Path) -> None:
    """Make today's tables in a copy, and put it in place when it is whole."""
    version, beside = version_of(database, backups), _beside(database)
    if version == head():
        return
    words = (
        f"{database} could not be brought up to date. It is unchanged. {_newest(backups)}"
        if version
        else f"{database} could not be made"
    )
    with whole_file.plainly(words.strip(), beside):
        if version:
            _copy(database, beside)
        else:
            whole_file.create(beside)
        migrate(beside)
        check_store(beside)
    if version:
        backup(database, backups)
    whole_file.put(beside, database)


def version_of(database: Path, backups: Path, *, looked_through: bool = True) -> str:
    """The version of a file's tables, "" for no file or an empty one. Raises: StoreError for one that cannot be opened."""
    if database.exists() and not database.is_file():
        raise StoreError(f"{database} is not a file.")
    if not database.exists() or database.stat().st_size == 0:
        return ""
    try:
        with closing(
            sqlite3.connect(f"{database.absolute().as_uri()}?mode=rw", uri=True, timeout=whole_file.PATIENCE_S)
        ) as connection:
            sound = connection.execute("PRAGMA quick_check(1)").fetchone()[0] if looked_through else "ok"
            if sound != "ok":
                raise StoreError(f"{database} is damaged ({sound}). It is unchanged. {_newest(backups, database)}".strip())
            found = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.OperationalError as problem:
        if "no such" not in str(problem):
            raise StoreError(f"{database} cannot be opened: {whole_file.reason(problem)}.") from problem
        found = None
    except sqlite3.DatabaseError as problem:
        raise StoreError(
            f"{database} is damaged, or no data of Frost Tally ({problem}). {_newest(backups, database)}".strip()
        ) from problem
    if found is None:
        raise StoreError(f"{database} is a database, but not Frost Tally’s. Choose another folder, or move it away.")
    if found[0] not in versions():
        raise StoreError(
            f"{database} was written by a newer Frost Tally ({found[0]}): install that one, or restore an older copy."
        )
    return str(found[0])


def _newest(backups: Path, but: Path | None = None) -> str:
    """Words for the newest copy that is whole; nothing when there is none."""
    for copy in sorted(backups.glob("*.db"), reverse=True):
        try:
            if copy != but and version_of(copy, backups / "none"):
                return f'The newest whole copy is {copy}: put it back with `frost-tally restore "{copy}"`.'
        except StoreError:
            continue
    return ""


def check_store(database: Path) -> None:
    """Raises: StoreError unless the pages are sound and every table and column of today is there."""
    with closing(sqlite3.connect(database)) as connection:
        if (
            connection.execute("PRAGMA integrity_check(1)").fetchone()[0] != "ok"
            or connection.execute("PRAGMA foreign_key_check").fetchone()
        ):
            raise StoreError("it is damaged")
    if lacking := _lacks(database):
        raise StoreError(lacking)


def _has_senseless(database: Path) -> bool:
    """Whether somebody wrote into the store what no table can refuse."""
    with closing(sqlite3.connect(database, timeout=whole_file.PATIENCE_S)) as connection:
        return any(True for _ in senseless(connection))


def _lacks(database: Path) -> str:
    """Which of today's tables or columns is not there, in words; "" for a whole store."""
    with closing(sqlite3.connect(database)) as connection:
        for table in Base.metadata.sorted_tables:
            present = {row[1] for row in connection.execute(f'PRAGMA table_info("{table.name}")')}
            if not present:
                return f"the table “{table.name}” is not there"
            if missing := {column.name for column in table.columns} - present:
                return f"“{table.name}” lacks {', '.join(sorted(missing))}"
    return ""


def rows(database: Path) -> dict[str, int]:
    """How many rows each table of a file has, of what a household has."""
    with closing(sqlite3.connect(database)) as connection:
        return {name: connection.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0] for name in counted()}  # noqa: S608 - our names


def _keep(database: Path, backups: Path) -> Path:
    """Keep what is there: as a copy, or as it was found when it is damaged."""
    try:
        return backup(database, backups)
    except StoreError:
        kept = _copy_of(database, backups, "-as-found")
        whole_file.create(kept)
        kept.write_bytes(database.read_bytes())
        if (log := database.with_name(f"{database.name}-wal")).exists():
            kept.with_name(f"{kept.name}-wal").write_bytes(log.read_bytes())
        return kept


def _copy_of(database: Path, backups: Path, how: str = "") -> Path:
    """Where a copy of this moment goes; later ones sort after earlier ones."""
    return backups / f"{database.stem}-{datetime.now(UTC):%Y%m%dT%H%M%S%f}{how}.db"


def _beside(database: Path) -> Path:
    """Where the next data is made, empty of what was left there."""
    beside = database.with_name(f"{database.name}.new")
    whole_file.discard(beside)
    return beside


def _copy(source: Path, target: Path) -> None:
    """All of a database, also what its log still holds. Raises: StoreError when somebody keeps it locked."""
    whole_file.create(target)
    ends = time.monotonic() + whole_file.PATIENCE_S

    def waiting(status: int, _remaining: int, _total: int) -> None:
        nonlocal ends
        if status not in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):  # a large file takes longer than anybody's lock
            ends = time.monotonic() + whole_file.PATIENCE_S
        elif time.monotonic() > ends:
            raise StoreError(whole_file.LOCKED)

    address = f"{source.absolute().as_uri()}?mode=rw"
    with (
        closing(sqlite3.connect(address, uri=True, timeout=whole_file.PATIENCE_S)) as open_source,
        closing(sqlite3.connect(target)) as copy,
    ):
        open_source.backup(copy, pages=2000, progress=waiting)


def _pragmas(connection: DBAPIConnection, _record: ConnectionPoolEntry) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA synchronous=NORMAL")
    cursor.close()


def migrate(database: Path, revision: str = "head", held: bool = True) -> None:
    """The tables of a revision, all steps in one transaction; a table made anew must not take its children along. Today's hold their types
    and sense afterwards, unless not `held`: what cannot be in them is put aside.
    """
    from alembic import command  # a start whose tables are today's does without
    from alembic.config import Config

    engine = create_engine(_address(database), poolclass=NullPool)

    def connected(connection: sqlite3.Connection, _record: ConnectionPoolEntry) -> None:
        connection.isolation_level = None
        connection.execute("PRAGMA foreign_keys=OFF")

    def begun(connection: Connection) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    def told(_c: object, _r: object, statement: str, values: object, *_: object) -> tuple[str, object]:
        return of_strict_types(statement), values

    event.listen(engine, "connect", connected)
    event.listen(engine, "begin", begun)
    event.listen(engine, "before_cursor_execute", told, retval=True)
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = engine
    command.upgrade(config, revision)
    if revision == "head" and held:
        hold_today(database)


def hold_today(database: Path) -> None:
    """See to it that today's tables hold their types and sense, and raise their counters."""
    with closing(sqlite3.connect(database, isolation_level=None)) as connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute("BEGIN IMMEDIATE")
        hold(connection)
        arm(connection)
        connection.execute("COMMIT")


def _address(database: Path) -> URL:
    return URL.create("sqlite", database=str(database))


@cache
def _steps() -> tuple[str, ...]:
    """The versions of the tables, by the names of their steps, the first first."""
    return tuple(sorted(each.name.partition("_")[0] for each in (MIGRATIONS / "versions").glob("[0-9]*.py")))


def head() -> str:
    """The version of today's tables."""
    return _steps()[-1]


def versions() -> frozenset[str]:
    """Every version of the tables that can be brought up to date."""
    return frozenset(_steps())
