"""The unit of work: reading the household, deciding for it (with a revision and a way back), and recording what happened.

Why: docs/decisions/0025.
"""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from sqlalchemy import Engine, column, insert, select, text, update
from sqlalchemy.orm import Session

from ..core.coming.weather import TypedNight
from ..core.errors import Missing
from ..core.home import Home
from ..world import World
from . import everything
from .models import HouseholdRow, Moment, StateRow, UndoRow
from .reader import READS as HOME_READS
from .reader import read_home
from .snapshot import Snapshot
from .state import Stale as Stale
from .state import Stamp, stale
from .undo import Decision, take_back

_STATE = text(
    """
    SELECT state.store, state.revision, present.typed_at, present.out_now_c, present.out_low_c, written.name, written.times
    FROM state LEFT JOIN present CROSS JOIN written
    """
).columns(
    column("store"), column("revision"), column("typed_at", Moment), *map(column, ("out_now_c", "out_low_c", "name", "times"))
)


@dataclass(frozen=True)
class Household:
    """One household: its store, and the world outside."""

    engine: Engine
    world: World = field(default_factory=World)
    _homes: dict[Hashable, Home] = field(default_factory=dict, compare=False, repr=False)

    def version(self) -> Hashable:
        """Changes with every write to the store, whoever makes it."""
        with self.reading() as snapshot:
            return snapshot.state_of()

    @contextmanager
    def reading(self, now: datetime | None = None) -> Iterator[Snapshot]:
        """One state of the store, in one transaction that only reads, at a moment (None: the present)."""
        with Session(self.engine, expire_on_commit=False, autoflush=False) as session:
            session.connection().exec_driver_sql("BEGIN")
            yield self._snapshot(session, now, decided=True)

    def _snapshot(self, session: Session, now: datetime | None, decided: bool) -> Snapshot:
        told = session.connection().execute(_STATE).all()
        store, revision, typed_at, now_c, low_c, *_ = told[0]
        counters = {name: times for *_, name, times in told}
        key = store, *(counters[each] for each in sorted(HOME_READS))
        home = self._homes.get(key) if decided else None
        if home is None:
            home = read_home(session)
            if decided:
                self._homes.clear()
                self._homes[key] = home
        return Snapshot(
            home=home,
            log=session,
            world=self.world,
            moment=now,
            typed=None if typed_at is None else TypedNight(typed_at, now_c, low_c),
            revision=Stamp(revision, store),
            counters=counters if decided else None,
            reading=self.reading,
        )

    def as_decided(self, session: Session, now: datetime | None = None) -> Snapshot:
        """What is so by now in a transaction that is not over yet."""
        session.flush()
        session.expire_all()
        return self._snapshot(session, now, decided=False)

    @contextmanager
    def deciding(
        self, words: str, seen_revision: int | None = None, stage: Callable[[Session], None] | None = None
    ) -> Iterator[Decision]:
        """A transaction of somebody's decision, all or nothing: pages made before it are stale, and it can be undone.

        `words` say what was decided; the session's `words` may still be made clearer inside. Its `number` undoes it. What takes long is
        staged before it, on the same connection, in tables of its own alone: others write meanwhile.
        Raises: Stale when the household moved on since `seen_revision`, or is another by now; a bare number asks for the first only;
        Repeated.
        """
        with self.engine.connect() as connection:
            if stage is not None:
                with Session(connection) as staging, staging.begin():
                    stage(staging)
            with Decision(connection, words) as session, session.begin():
                self._move_on(session, seen_revision)
                yield session
                session.close_decision()

    def _move_on(self, session: Decision, seen_revision: int | None) -> None:
        """A decision's own revision, first of all. Raises: Stale."""
        session.connection().execute(insert(HouseholdRow).prefix_with("OR IGNORE").values(id=1))
        moved = update(StateRow).values(revision=StateRow.revision + 1)
        if seen_revision is not None:
            moved = moved.where(StateRow.revision == seen_revision)
        if isinstance(seen_revision, Stamp):
            moved = moved.where(StateRow.store == seen_revision.store)
        state = session.connection().execute(moved.returning(StateRow.revision, StateRow.store)).first()
        if state is None:
            raise stale(session.connection().exec_driver_sql, seen_revision)
        session.state, session.at = Stamp(*state), self.world.clock.now()
        session.once()

    @contextmanager
    def recording(self) -> Iterator[Session]:
        """A transaction that writes down what happened, all or nothing: no page goes stale, nothing to undo."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    def bring_back(self, beside: Path, backups: Path, seen_revision: int) -> Path:
        """Put a whole store file in place of everything; returns the copy of what was there. Raises: Stale, and nothing is changed."""
        return everything.put_in_place(self.engine, beside, backups, seen_revision)

    def delete_all(self, backups: Path) -> Path:
        """Delete everything; returns the copy of what was there."""
        return everything.delete_all(self.engine, backups)

    def undo(self, number: int) -> int:
        """Take back a decision; returns the number to undo that by. Raises: Refusal when it is gone or was built upon."""
        with self.deciding("") as session:
            if isinstance(number, Stamp) and number.store != session.state.store:
                raise Missing("There is nothing left to undo.")
            take_back(session, number)
        return session.number


def undoable(snapshot: Snapshot, number: int) -> str:
    """The words of a decision that can still be undone; "" for any other."""
    here = snapshot.revision.store
    row = snapshot.log.get(UndoRow, number) if getattr(number, "store", here) == here else None
    return f"{'Taken back: ' if row.takes_back else ''}{row.words}" if row is not None else ""


@dataclass(frozen=True, kw_only=True)
class Decided:
    """A decision of the past: its number, when, who made it ("": at this computer), its words, and whether it took another back."""

    number: Stamp
    at: datetime
    who: str
    words: str
    takes_back: bool


def decisions(snapshot: Snapshot, most: int = 30) -> tuple[Decided, ...]:
    """The latest decisions that can still be undone, the latest first."""
    wanted = (
        select(UndoRow.id, UndoRow.made_at, UndoRow.who, UndoRow.words, UndoRow.takes_back)
        .order_by(UndoRow.id.desc())
        .limit(most)
    )
    return tuple(
        Decided(number=Stamp(number, snapshot.revision.store), at=at, who=who, words=words, takes_back=takes_back)
        for number, at, who, words, takes_back in snapshot.log.execute(wanted)
    )
