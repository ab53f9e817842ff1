"""The unit of work: reading the household, deciding for it (with a revision and a way back), and recording what happened."""

from collections.abc import Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, insert, select, update
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from ..world import World
from . import everything
from .models import HouseholdRow, StateRow, UndoRow
from .state import Stale as Stale
from .state import Stamp, stale
from .undo import Decision, take_back

Settled = dict[Hashable, dict[Hashable, Any]]
_STATE = select(StateRow.revision, StateRow.store)


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
            revision, store = session.execute(_STATE).one()
            state = revision, store
            if state not in self._settled:
                self._settled.clear()
                self._settled[state] = {}
            session.info["settled"], session.info["seen"] = self._settled[state], Stamp(revision, store)
            yield session

    @contextmanager
    def deciding(self, words: str, seen_revision: int | None = None) -> Iterator[Decision]:
        """A transaction of somebody's decision, all or nothing: pages made before it are stale, and it can be undone.

        `words` say what was decided; the session's `words` may still be made clearer inside. Its `number` undoes it.
        Raises: Stale when the household moved on since `seen_revision`, or is another by now; a bare number asks for the first only.
        """
        with Decision(self.engine, words) as session, session.begin():
            session.info["world"] = self.world
            session.connection().execute(insert(HouseholdRow).prefix_with("OR IGNORE").values(id=1))
            moved = update(StateRow).values(revision=StateRow.revision + 1)
            if seen_revision is not None:
                moved = moved.where(StateRow.revision == seen_revision)
            if isinstance(seen_revision, Stamp):
                moved = moved.where(StateRow.store == seen_revision.store)
            state = session.connection().execute(moved.returning(StateRow.revision, StateRow.store)).first()
            if state is None:
                raise stale(session.connection().exec_driver_sql, seen_revision)
            session.state = session.info["seen"] = Stamp(*state)
            yield session
            session.close_decision()
        self._written[0] += 1

    @contextmanager
    def recording(self) -> Iterator[Session]:
        """A transaction that writes down what happened, all or nothing: no page goes stale, nothing to undo."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session
        self.replaced()

    def bring_back(self, beside: Path, backups: Path, seen_revision: int) -> Path:
        """Put a whole store file in place of everything; returns the copy of what was there. Raises: Stale, and nothing is changed."""
        kept = everything.put_in_place(self.engine, beside, backups, seen_revision)
        self.replaced()
        return kept

    def delete_all(self, backups: Path) -> Path:
        """Delete everything; returns the copy of what was there."""
        kept = everything.delete_all(self.engine, backups)
        self.replaced()
        return kept

    def replaced(self) -> None:
        """Everything in the store is another: nothing that was read before counts."""
        self._settled.clear()
        self._written[0] += 1

    def undo(self, number: int) -> int:
        """Take back a decision; returns the number to undo that by. Raises: Refusal when it is gone or was built upon."""
        with self.deciding("") as session:
            if isinstance(number, Stamp) and number.store != session.state.store:
                raise Refusal("There is nothing left to undo.")
            take_back(session, number)
        return session.number

    def undoable(self, number: int) -> str:
        """The words of a decision that can still be undone; "" for any other."""
        with self.reading() as session:
            here = session.info["seen"].store
            row = session.get(UndoRow, number) if getattr(number, "store", here) == here else None
            return f"{'Taken back: ' if row.takes_back else ''}{row.words}" if row is not None else ""


def seen(session: Session) -> Stamp:
    """The revision that a session reads."""
    found: Stamp = session.info["seen"]
    return found


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
