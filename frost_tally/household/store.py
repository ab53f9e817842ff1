"""The SQLite file: opening, migrating with a backup before, copying and restoring."""

import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.pool import ConnectionPoolEntry


class StoreError(RuntimeError):
    """The database file cannot be used, with a sentence for a person."""


def open_store(database: Path, backups: Path) -> Engine:
    """Open (or create) the database, migrated to today's tables; an existing file is copied to `backups` before that."""
    database.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{database}", connect_args={"timeout": 10})
    event.listen(engine, "connect", _pragmas)
    config = _alembic(engine)
    wanted = ScriptDirectory.from_config(config).get_current_head()
    with engine.connect() as connection:
        present = MigrationContext.configure(connection).get_current_revision()
    if present != wanted:
        if present is not None:
            backup(database, backups)
        command.upgrade(config, "head")
    return engine


def backup(database: Path, backups: Path) -> Path:
    """Copy a database that may be in use; returns the copy's path. Raises: StoreError when there is nothing to copy."""
    if not database.exists():
        raise StoreError(f"There is no data to copy yet at {database}.")
    backups.mkdir(parents=True, exist_ok=True)
    target = backups / f"{database.stem}-{datetime.now(UTC):%Y%m%dT%H%M%S%f}.db"
    with closing(sqlite3.connect(database)) as source, closing(sqlite3.connect(target)) as copy:
        source.backup(copy)
    return target


def restore(copy: Path, database: Path, backups: Path) -> Path | None:
    """Put a copy in the database's place after checking it; returns the backup of what was there before, if any.

    Raises: StoreError for a file that is not a sound Frost Tally database; nothing is changed then.
    """
    _check(copy)
    kept = backup(database, backups) if database.exists() else None
    database.parent.mkdir(parents=True, exist_ok=True)
    with closing(sqlite3.connect(copy)) as source, closing(sqlite3.connect(database)) as target:
        source.backup(target)
    return kept


def _check(copy: Path) -> None:
    if not copy.is_file():
        raise StoreError(f"{copy} is not a file.")
    try:
        with closing(sqlite3.connect(f"file:{copy}?mode=ro", uri=True)) as connection:
            sound = connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            ours = connection.execute("SELECT count(*) FROM sqlite_master WHERE name IN ('household', 'car', 'alembic_version')")
            if not sound or ours.fetchone()[0] != 3:
                raise StoreError(f"{copy} is not a Frost Tally copy.")
    except sqlite3.DatabaseError as error:
        raise StoreError(f"{copy} is not a database: {error}.") from error


def _pragmas(connection: DBAPIConnection, _record: ConnectionPoolEntry) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA synchronous=NORMAL")
    cursor.close()


def _alembic(engine: Engine) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["engine"] = engine
    return config
