"""The unit of work: reading the household, deciding for it (with a revision and a way back), and recording what happened."""

from collections.abc import Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, insert, update
from sqlalchemy.orm import Session

from ..world import World
from .models import HouseholdRow, UndoRow
from .undo import Decision, take_back

Settled = dict[int | None, dict[Hashable, Any]]


class Stale(RuntimeError):
    """The page was made from an older state of the household."""


@dataclass(frozen=True)
class Home:
    """One household: its store, and the world outside.

    What only a decision changes (places, people, outlets, tariffs, cars, departures) is read once for each revision, and then kept.
    """

    engine: Engine
    world: World = field(default_factory=World)
    _settled: Settled = field(default_factory=dict, compare=False, repr=False)
    _written: list[int] = field(default_factory=lambda: [0], compare=False, repr=False)

    def version(self) -> Hashable:
        """Changes with every write to the store, whoever makes it: what the files say of themselves, and what this process wrote."""
        database = Path(self.engine.url.database or "")
        return (
            id(self.world),
            str(database),
            self._written[0],
            *(_stamp(database.with_name(database.name + end)) for end in ("", "-wal")),
        )

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads."""
        with Session(self.engine, expire_on_commit=False, info={"world": self.world}) as session:
            revision = session.connection().exec_driver_sql("SELECT revision FROM household").scalar()
            if revision not in self._settled:
                self._settled.clear()
                self._settled[revision] = {}
            session.info["settled"] = self._settled[revision]
            yield session

    @contextmanager
    def deciding(self, words: str, seen_revision: int | None = None) -> Iterator[Decision]:
        """A transaction of somebody's decision, all or nothing: pages made before it are stale, and it can be undone.

        `words` say what was decided; the session's `words` may still be made clearer inside. Its `number` undoes it.
        Raises: Stale when the household moved on since `seen_revision`.
        """
        with Decision(self.engine, words) as session, session.begin():
            session.info["world"] = self.world
            at = session.connection()
            at.execute(insert(HouseholdRow).prefix_with("OR IGNORE").values(id=1, revision=0))
            moved = update(HouseholdRow).values(revision=HouseholdRow.revision + 1)
            if seen_revision is not None:
                moved = moved.where(HouseholdRow.revision == seen_revision)
            if at.execute(moved).rowcount != 1:
                raise Stale("Something was changed elsewhere since this page was opened.")
            yield session
            session.close_decision()
        self._written[0] += 1

    @contextmanager
    def recording(self) -> Iterator[Session]:
        """A transaction that writes down what happened, all or nothing: no page goes stale, nothing to undo."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session
        self.replaced()

    def replaced(self) -> None:
        """Everything in the store is another: nothing that was read before counts."""
        self._settled.clear()
        self._written[0] += 1

    def undo(self, number: int) -> int:
        """Take back a decision; returns the number to undo that by. Raises: Refusal when it is gone or was built upon."""
        with self.deciding("") as session:
            take_back(session, number)
        return session.number

    def undoable(self, number: int) -> str:
        """The words of a decision that can still be undone; "" for any other."""
        with self.reading() as session:
            row = session.get(UndoRow, number)
            return f"{'Taken back: ' if row.takes_back else ''}{row.words}" if row is not None else ""


def _stamp(file: Path) -> tuple[int, int]:
    """When a file was written last (ns), and its size; nothing for one that is not there."""
    try:
        found = file.stat()
    except OSError:
        return 0, 0
    return found.st_mtime_ns, found.st_size


def world_of(session: Session) -> World:
    """The world outside the home that a session reads."""
    found: World = session.info["world"]
    return found
