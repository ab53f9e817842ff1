"""Counters of the tables: raised by the store itself, in the writing transaction, whoever writes and in whatever way."""

import sqlite3
from collections.abc import Hashable, Iterable
from functools import cache

from sqlalchemy import Engine, text

from .models import Base

OF_THE_STORE = ("state", "written")
"""Tables of the store itself, which are no part of what a household has."""


def counted() -> tuple[str, ...]:
    """The tables that are counted: all that a household has."""
    return tuple(table.name for table in Base.metadata.sorted_tables if table.name not in OF_THE_STORE)


def arm(connection: sqlite3.Connection) -> None:
    """See to it that every table raises its counter; those that do already stay as they are. A table made anew has lost its triggers."""
    for name in counted():
        connection.execute("INSERT OR IGNORE INTO main.written VALUES (?, 0)", (name,))
        for what in ("INSERT", "UPDATE", "DELETE"):
            raised = f"UPDATE written SET times = times + 1 WHERE name = '{name}'"  # noqa: S608 - our names
            trigger = f'main."written_{name}_{what.lower()}" AFTER {what} ON "{name}"'
            connection.execute(f"CREATE TRIGGER IF NOT EXISTS {trigger} BEGIN {raised}; END")


def disarm(connection: sqlite3.Connection) -> None:
    """For who replaces all rows of all tables: every counter is raised now, and not by each of a million rows."""
    connection.execute("UPDATE main.written SET times = times + 1")
    for name in counted():
        for what in ("insert", "update", "delete"):
            connection.execute(f'DROP TRIGGER IF EXISTS main."written_{name}_{what}"')


@cache
def _asked(reads: tuple[str, ...]) -> str:
    if unknown := set(reads) - set(counted()):
        raise KeyError(f"no such tables: {', '.join(sorted(unknown))}")
    listed = ", ".join(f"'{each}'" for each in reads)
    return f"SELECT (SELECT store FROM state), group_concat(times) FROM (SELECT times FROM written WHERE name IN ({listed}) ORDER BY name)"  # noqa: S608 - our names


def times(engine: Engine, reads: Iterable[str]) -> Hashable:
    """How often some tables were written, in which store. Raises: KeyError for a table that is not counted."""
    with engine.connect() as connection:
        return tuple(connection.execute(text(_asked(tuple(sorted(reads))))).one())
