"""Undo: what a decision's rows were before it, kept by the session itself as it writes, and put back as they were."""

from collections.abc import Mapping, Sequence
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from typing import Any

from sqlalchemy import Column, Connection, Table, delete, event, insert, inspect, select
from sqlalchemy.orm import Session, object_session

from ..core.errors import Missing, Refusal
from . import files
from .models import Base, CarRow, PendingRow, UndoRow
from .models.base import acting as acting
from .state import Stamp

KEPT = 200


@dataclass(frozen=True)
class Sending:
    """What a script sends, by its key: sent again it is not done again. `digest` is of what is asked. Why: docs/decisions/0072."""

    key: str
    digest: str


sending: ContextVar[Sending | None] = ContextVar("sending", default=None)
"""What is being done by a script's key, if anything."""


class Repeated(RuntimeError):
    """It was done before, by the same key: the decision's number and words, and whether the `same` was asked for."""

    def __init__(self, number: Stamp, words: str, same: bool) -> None:
        super().__init__(words)
        self.number, self.words, self.same = number, words, same


Key = tuple[Any, ...]
Values = dict[str, object]


class Decision(Session):
    """A transaction that somebody decided on: `words` say what, `number` undoes it once the transaction is over.

    One that `takes_back` undoes what the words say; `state` is the revision that it makes, `at` when it is made.
    """

    def __init__(self, bind: Connection, words: str) -> None:
        super().__init__(bind, expire_on_commit=False)
        self.words, self.takes_back, self.number = words, False, Stamp(0, "")
        self.state, self.at = Stamp(0, ""), datetime.now(UTC)
        self._before: dict[tuple[str, Key], Values] = {}
        self._made: list[Base] = []
        self._files: list[str] = []

    def file_taken(self, pending: str) -> None:
        """A file whose intervals were taken over, or taken back, belongs to this decision."""
        self._files.append(pending)

    def note_before(self, row: Base, gone: bool) -> None:
        """Keep what a row about to be written is in the store; the first such picture of a column counts."""
        state = inspect(row)
        if isinstance(row, PendingRow) or any(row is each for each in self._made):
            return
        table, key = Base.metadata.tables[row.__tablename__], tuple(state.identity or ())
        changed = [
            each.columns[0].name for each in state.mapper.column_attrs if gone or state.attrs[each.key].history.has_changes()
        ]
        if changed:
            stored, kept = _stored(self, table, key), self._before.setdefault((table.name, key), {})
            for name in changed:
                kept.setdefault(name, stored[name])

    def note_made(self, row: Base) -> None:
        """A row that was not there before."""
        self._made.append(row)

    def once(self) -> None:
        """Raises: Repeated where the script's key that this is done by did something before; asked under the lock of the writing."""
        sent = sending.get()
        if sent is not None:
            wanted = select(UndoRow.id, UndoRow.words, UndoRow.request_digest).where(UndoRow.request_key == sent.key)
            for number, words, digest in self.connection().execute(wanted):
                raise Repeated(Stamp(number, self.state.store), words, digest == sent.digest)

    def close_decision(self) -> None:
        """Write down how to undo it."""
        self.flush()
        images: list[dict[str, object]] = [{"file": each} for each in self._files]
        for row in self._made:
            state = inspect(row)
            if state.persistent:
                table, key = Base.metadata.tables[row.__tablename__], tuple(state.identity or ())
                images.append({"table": table.name, "key": list(key), "was": None, "became": _stored(self, table, key)})
        for (name, key), was in self._before.items():
            now = _stored(self, Base.metadata.tables[name], key)
            images.append({"table": name, "key": list(key), "was": was, "became": {n: now[n] for n in was} if now else None})
        named: dict[str, object] = {
            "made_at": datetime.now(UTC),
            "words": self.words,
            "takes_back": self.takes_back,
            "revision": int(self.state),
        }
        named["who"] = acting.get()
        if (sent := sending.get()) is not None:
            named |= {"request_key": sent.key, "request_digest": sent.digest}
        written = self.connection().execute(insert(UndoRow).values(**named, before=images))
        self.number = Stamp(written.inserted_primary_key[0], self.state.store)  # type: ignore[index]
        self.connection().execute(delete(UndoRow).where(UndoRow.id <= self.number - KEPT))


@event.listens_for(Base, "before_update", propagate=True)
def _before_update(_mapper: object, _connection: object, row: Base) -> None:
    if isinstance(session := object_session(row), Decision):
        session.note_before(row, gone=False)


@event.listens_for(Base, "before_delete", propagate=True)
def _before_delete(_mapper: object, _connection: object, row: Base) -> None:
    if isinstance(session := object_session(row), Decision):
        session.note_before(row, gone=True)


@event.listens_for(Base, "before_insert", propagate=True)
def _before_insert(_mapper: object, _connection: object, row: Base) -> None:
    if isinstance(session := object_session(row), Decision):
        session.note_made(row)


def take_back(session: Decision, number: int) -> None:
    """Put the rows of a decision back as they were. Raises: Refusal when it is not there, or was built upon since."""
    found = session.get(UndoRow, number)
    if found is None:
        raise Missing("There is nothing left to undo.")
    session.words, session.takes_back = found.words, not found.takes_back
    images: list[dict[str, Any]] = list(found.before)
    if any("table" in image and not _fits(image) for image in images):
        raise Refusal("This was done before the tables were changed: it cannot be undone any more.")
    for image in images:
        if "table" in image and _now(session, image) != image["became"]:
            raise Refusal("This was changed again since: undo the later change first.")
    for image in images:
        if "table" in image and image["was"] is None and (users := _users(session, image, images)):
            raise Refusal(
                f"“{getattr(_row(session, image), 'name', 'This')}” is used by {', '.join(users)} now: change that first."
            )
    for image in images:
        if "file" in image:
            files.turn(session, image["file"])
            session.file_taken(image["file"])
        else:
            _put_back(session, image)
    session.connection().execute(delete(UndoRow).where(UndoRow.id == number))


def _fits(image: Mapping[str, Any]) -> bool:
    """Whether today's tables have what an image is of."""
    table = Base.metadata.tables.get(image["table"])
    columns = {*(image["was"] or ()), *(image["became"] or ())}
    return table is not None and columns <= {each.name for each in table.columns} and len(image["key"]) == len(table.primary_key)


def _now(session: Session, image: Mapping[str, Any]) -> Values | None:
    """The columns of an image as they are in the store; None when the row is gone."""
    stored = _stored(session, Base.metadata.tables[image["table"]], tuple(image["key"]))
    wanted = image["became"] or image["was"]
    return {name: stored[name] for name in wanted} if stored else None


def _users(session: Session, image: Mapping[str, Any], images: Sequence[Mapping[str, Any]]) -> list[str]:
    """Who refers to a row without belonging to it, and is not itself put back with it, by name."""
    going = {(each["table"], tuple(each["key"])) for each in images if "table" in each}
    found = []
    for mapper in Base.registry.mappers:
        table = Base.metadata.tables[mapper.class_.__tablename__]
        for key in (each for each in table.foreign_keys if each.column.table.name == image["table"] and each.ondelete is None):
            for row in session.scalars(select(mapper.class_).where(key.parent == image["key"][0])):
                owner = row if hasattr(row, "name") else session.get(CarRow, row.car_id)
                at = (table.name, tuple(inspect(row).identity or ()))
                if at not in going and owner is not None and not getattr(owner, "withdrawn", False):
                    found.append(str(owner.name))
    return found


def _kind(name: str) -> Any:
    table = Base.metadata.tables[name]
    return next(each.class_ for each in Base.registry.mappers if each.local_table is table)


def _row(session: Session, image: Mapping[str, Any]) -> Any:
    return session.get(_kind(image["table"]), tuple(image["key"]))


def _put_back(session: Session, image: Mapping[str, Any]) -> None:
    table, kind = Base.metadata.tables[image["table"]], _kind(image["table"])
    row, was = _row(session, image), image["was"]
    if was is None:
        if row is not None and hasattr(row, "withdrawn"):
            row.withdrawn = True
        elif row is not None:
            session.delete(row)
    else:
        values = {name: _typed(table.columns[name], value) for name, value in was.items()}
        if row is None:
            session.add(kind(**values))
        else:
            for name, value in values.items():
                setattr(row, name, value)


def _stored(session: Session, table: Table, key: Key) -> Values:
    """A row's columns as plain values; empty when there is no such row."""
    wanted = select(table).where(*(column == value for column, value in zip(table.primary_key, key, strict=True)))
    found = session.connection().execute(wanted).mappings().first()
    return (
        {name: value.isoformat() if isinstance(value, date | time) else value for name, value in found.items()} if found else {}
    )


def _typed(column: Column[Any], value: object) -> object:
    """A plain value as the column's own type."""
    kind = column.type.python_type
    return kind.fromisoformat(value) if kind in (datetime, date, time) and isinstance(value, str) else value
