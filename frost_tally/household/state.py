"""How far a store has come: numbers that never come again, whatever takes its place, and pages that are too old for it.

Why: docs/decisions/0048.
"""

import secrets
import sqlite3
from collections.abc import Callable, Iterable, Mapping
from contextlib import closing
from pathlib import Path
from typing import Any

TOLD = 5
"""So many decisions are told of by name."""


class Stamp(int):
    """A number of one store: a revision, or that of a decision. Written it names the store as well (`17.5e0c9a1b`), so that a page of
    another time cannot mean what stands under its number now.
    """

    store: str

    def __new__(cls, number: int, store: str) -> "Stamp":
        made = super().__new__(cls, number)
        made.store = store
        return made

    def __str__(self) -> str:
        return f"{int(self)}.{self.store}"


class Stale(RuntimeError):
    """The page was made from an older state of the household, or from another (`replaced`); the words say what was changed since."""

    def __init__(self, words: str = "All of the data was replaced since this page was opened.", replaced: bool = False) -> None:
        super().__init__(words)
        self.replaced = replaced


def stale(execute: Callable[[str, tuple[Any, ...]], Iterable[Any]], seen: int | None) -> Stale:
    """What was decided since a page was made (at the revision `seen`); `execute` asks the store."""
    store = getattr(seen, "store", "")
    if store and store not in {each for (each,) in execute("SELECT store FROM state", ())}:
        return Stale(replaced=True)
    since = "SELECT words, takes_back FROM undo WHERE revision > ? ORDER BY id DESC"
    found = [f"taken back: {words}" if back else words for words, back in execute(since, (int(seen or 0),))] if store else []
    told = "; ".join(found[:TOLD]) + (f"; and {len(found) - TOLD} more" if len(found) > TOLD else "")
    return Stale(f"Something was changed elsewhere since this page was opened{f': {told}' if told else ''}.")


def never_again(connection: sqlite3.Connection, given: Mapping[str, int], revision: int = 0) -> None:
    """All of a store was replaced: no revision (up to `revision`) and no number that was `given` out comes again, and no page of before
    counts.
    """
    moved = "UPDATE main.state SET store = ?, revision = max(revision, ?) + 1"
    connection.execute(moved, (secrets.token_hex(4), revision))
    set_last(connection, given)


def set_last(connection: sqlite3.Connection, given: Mapping[str, int]) -> None:
    """The last numbers that tables gave out, of those that never give one twice."""
    for name, last in given.items():
        connection.execute("UPDATE main.sqlite_sequence SET seq = ? WHERE name = ?", (last, name))
        connection.execute("INSERT INTO main.sqlite_sequence SELECT ?, ? WHERE changes() = 0", (name, last))
    connection.execute("DELETE FROM main.sqlite_sequence WHERE seq = 0")


def higher(one: Mapping[str, int], other: Mapping[str, int]) -> dict[str, int]:
    """The higher of two numbers by name."""
    return {name: max(one.get(name, 0), other.get(name, 0)) for name in (*one, *other)}


def follow(before: Path, beside: Path) -> None:
    """The numbers of a store that takes another's place go on after both, where the other can still be read."""
    given, revision = dict[str, int](), 0
    try:
        with closing(sqlite3.connect(f"{before.absolute().as_uri()}?mode=ro", uri=True)) as old:
            given = dict(old.execute("SELECT name, seq FROM sqlite_sequence"))
            table = "state" if old.execute("SELECT 1 FROM sqlite_master WHERE name = 'state'").fetchone() else "household"
            revision = old.execute(f"SELECT coalesce(max(revision), 0) FROM {table}").fetchone()[0]  # noqa: S608 - our names
    except sqlite3.Error:
        pass  # it is not there, or damaged: the store's number is another all the same
    with closing(sqlite3.connect(beside)) as connection, connection:
        never_again(connection, higher(given, dict(connection.execute("SELECT name, seq FROM sqlite_sequence"))), revision)
