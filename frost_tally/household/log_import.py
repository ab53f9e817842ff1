"""A file's entries in the store: held against what is there, taken over in one go, and taken back.

A file is loaded into a table of the session's own; all comparing is left to SQLite, so that memory stays the same for any length.
Why: docs/decisions/0039.
"""

import json
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import numpy as np
from sqlalchemy import Connection, select
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from ..core.log.kinds import KINDS, MOMENT, Column, Kind
from .log import STORED, column_name
from .models import DriveRow, PendingRow, UndoRow
from .models.base import by_whom

NEAR = 1e-9


@dataclass(frozen=True, kw_only=True)
class Difference:
    """What taking rows over would do: how many are new, change one that is there, are there already; and rows of one moment twice
    in the file (line, line of the first, whether they say the same)."""

    added: int
    changed: int
    same: int
    twice: tuple[tuple[int, int, bool], ...]


class Incoming:
    """The rows of a file of one kind, in a table of this connection; `columns` are those that the file has."""

    def __init__(self, session: Session, kind: str, columns: Sequence[str]) -> None:
        self.at: Connection = session.connection()
        self.shape: Kind = KINDS[kind]
        self.stored = STORED[kind]
        self.columns = [each for each in self.shape.columns if each.name in columns or each.name in self.shape.same]
        self.table = self.stored.row.__tablename__
        self.name = f"incoming_{kind}"
        self.at.exec_driver_sql(f"DROP TABLE IF EXISTS temp.{self.name}")
        names = ", ".join(f'"{column_name(each.name)}"' for each in self.columns)
        self.at.exec_driver_sql(f"CREATE TEMP TABLE {self.name} (line INTEGER PRIMARY KEY, car_id, {names}, source, assumed)")
        marks = ", ".join("?" * (len(self.columns) + 4))
        self._insert = f"INSERT INTO temp.{self.name} VALUES ({marks})"  # noqa: S608 - our own names

    def load(
        self, lines: Sequence[int], cars: Sequence[int], values: Mapping[str, Any], sources: Sequence[str], assumed: Sequence[Any]
    ) -> None:
        """Put rows in, column by column: `values` by name, times as datetime64 on UTC, None (or not a time) for what is open."""
        told = [_told(each, values.get(each.name), len(lines)) for each in self.columns]
        names = {each: json.dumps(list(each)) for each in set(assumed)}
        if lines:
            rows = zip(lines, cars, *told, sources, [names[each] for each in assumed], strict=True)
            self.at.exec_driver_sql(self._insert, list(rows))

    def _match(self) -> str:
        """When a stored row `t` is the one that an incoming row `i` speaks of."""
        at, fixed = self.shape.at, [f"t.\"{name}\" = '{value}'" for name, value in self.stored.fixed.items()]
        if self.shape.key == "event":
            fixed.append("t.kind <> 'season'")
        same = [f't."{column_name(name)}" IS i."{column_name(name)}"' for name in self.shape.same]
        return " AND ".join(["t.car_id = i.car_id", f't."{at}" = i."{at}"', *fixed, *same])

    def _alike(self, one: str = "t", other: str = "i") -> str:
        """Whether every column of the file says the same in both rows."""
        found = ["1"]
        for each in self.columns:
            a, b = (f'{row}."{column_name(each.name)}"' for row in (one, other))
            near = f"OR abs({a} - {b}) <= {NEAR} * (1 + abs({b}))" if each.is_number else ""
            found.append(f"({a} IS {b} {near})")
        return " AND ".join(found)

    def index(self) -> None:
        """Make looking rows up by car and time quick, once all are in."""
        self.at.exec_driver_sql(f'CREATE INDEX temp.ix_{self.name} ON {self.name} (car_id, "{self.shape.at}")')

    def drop_twice(self) -> tuple[tuple[int, int, bool], ...]:
        """Take out rows of a moment that an earlier row of the file has already; returns (line, first line, whether they are alike)."""
        keys = ", ".join(f'"{name}"' for name in ("car_id", self.shape.at, *map(column_name, self.shape.same)))
        once = f"SELECT 1 FROM temp.{self.name} GROUP BY {keys} HAVING count(*) > 1 LIMIT 1"  # noqa: S608 - our own names
        if self.at.exec_driver_sql(once).first() is None:
            return ()
        first = f"SELECT line, min(line) OVER (PARTITION BY {keys}) AS first FROM temp.{self.name}"  # noqa: S608
        wanted = (
            f"SELECT b.line, a.line, {self._alike('a', 'b')} FROM ({first}) f JOIN temp.{self.name} b ON b.line = f.line "  # noqa: S608
            f"JOIN temp.{self.name} a ON a.line = f.first WHERE f.line > f.first ORDER BY b.line"
        )
        found = tuple((int(line), int(earlier), bool(alike)) for line, earlier, alike in self.at.exec_driver_sql(wanted))
        away = f"DELETE FROM temp.{self.name} WHERE line IN (SELECT line FROM ({first}) WHERE line > first)"  # noqa: S608
        self.at.exec_driver_sql(away)
        return found

    def difference(self) -> Difference:
        """Hold the rows against what is stored."""
        twice = self.drop_twice()
        wanted = (
            f"SELECT count(*), count(t.id), count(CASE WHEN t.id IS NOT NULL AND {self._alike()} THEN 1 END) "  # noqa: S608
            f"FROM temp.{self.name} i LEFT JOIN {self.table} t ON {self._match()}"
        )
        total, there, same = self.at.exec_driver_sql(wanted).one()
        return Difference(added=total - there, changed=there - same, same=same, twice=twice)

    def close(self) -> None:
        """Away with the table."""
        self.at.exec_driver_sql(f"DROP TABLE temp.{self.name}")

    def span(self) -> tuple[str | None, str | None]:
        """The first and the last time, as stored."""
        at = self.shape.at
        first, last = self.at.exec_driver_sql(f'SELECT min("{at}"), max("{at}") FROM temp.{self.name}').one()  # noqa: S608
        return first, last

    def take(self, now: datetime) -> dict[str, Any]:
        """Write the rows; returns what undoing them needs: the range of new numbers, and the changed rows as they were."""
        apart = self._apart()
        was = [] if apart else self._change()
        before = self._last()
        others, names = self._others(now), [column_name(each.name) for each in self.columns]
        into = ", ".join(f'"{name}"' for name in ("car_id", *names, "source", "assumed", *others))
        out = ", ".join([*(f'i."{name}"' for name in ("car_id", *names, "source", "assumed")), *("?" for _ in others)])
        new = "" if apart else f"WHERE NOT EXISTS (SELECT 1 FROM {self.table} t WHERE {self._match()}) "  # noqa: S608
        insert = f"INSERT INTO {self.table} ({into}) SELECT {out} FROM temp.{self.name} i {new}ORDER BY i.line"  # noqa: S608
        self.at.exec_driver_sql(insert, tuple(others.values()))
        return {"table": self.table, "added": [before + 1, self._last()], "was": was, "rows": []}

    def count(self) -> int:
        """How many rows there are."""
        return int(self.at.exec_driver_sql(f"SELECT count(*) FROM temp.{self.name}").scalar_one())  # noqa: S608

    def _last(self) -> int:
        return int(self.at.exec_driver_sql(f"SELECT coalesce(max(id), 0) FROM {self.table}").scalar_one())  # noqa: S608

    def _apart(self) -> bool:
        """Whether nothing is stored in the time that the rows are of: then all of them are new."""
        first, last = self.span()
        at = f'SELECT 1 FROM {self.table} t WHERE t."{self.shape.at}" BETWEEN ? AND ? LIMIT 1'  # noqa: S608
        return first is None or self.at.exec_driver_sql(at, (first, last)).first() is None

    def _others(self, now: datetime) -> dict[str, Any]:
        """What a new row has in the columns that the file does not speak of."""
        told = {column_name(each.name) for each in self.columns} | {"id", "car_id", "source", "assumed"}
        found: dict[str, Any] = {"noted_by": by_whom(), **self.stored.fixed} | (
            {"noted_at": _moment(now)} if self.stored.row is DriveRow else {}
        )
        for column in self.stored.row.__table__.columns:
            if column.name not in told and column.name not in found and not column.nullable:
                found[column.name] = column.default.arg if column.default.is_scalar else "[]"
        return found

    def _change(self) -> list[dict[str, Any]]:
        """Write the file's columns over the rows that it changes; returns those as they were."""
        names = [column_name(each.name) for each in self.columns] + ["assumed"]
        told = ", ".join(f'i."{name}"' for name in names)
        wanted = (
            f"SELECT t.*, {told} FROM {self.table} t JOIN temp.{self.name} i ON {self._match()} "  # noqa: S608
            f"WHERE NOT ({self._alike()})"
        )
        found = self.at.exec_driver_sql(wanted)
        stored = list(found.keys())[: -len(names)]
        rows = [tuple(row) for row in found]
        written = ", ".join(f'"{name}" = ?' for name in names)
        update = f"UPDATE {self.table} SET {written} WHERE id = ?"  # noqa: S608
        was = [dict(zip(stored, row[: len(stored)], strict=True)) for row in rows]
        if rows:
            self.at.exec_driver_sql(update, [(*row[len(stored) :], old["id"]) for row, old in zip(rows, was, strict=True)])
        return was


def _told(column: Column, values: Any, count: int) -> Sequence[Any]:
    """A column as the driver writes it; what is open is as the store has it."""
    if values is None:
        return [column.empty] * count
    if column.quantity == MOMENT:
        texts = np.char.replace(np.datetime_as_string(values, unit="us"), "T", " ").tolist()
        return [None if each == "Na " else each for each in texts] if np.isnat(values).any() else texts
    return values if column.empty is None else [column.empty if each is None else each for each in values]


def _moment(value: datetime) -> str:
    """A time as SQLAlchemy stores it."""
    return value.astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")


def packed(done: Sequence[Mapping[str, Any]]) -> bytes:
    """What undoing needs, small."""
    return zlib.compress(json.dumps(done).encode(), 6)


def turn(session: Session, row: PendingRow) -> None:
    """Take a file that was taken over back, or over again: its new entries go or come, those that it changed are as before.

    Raises: Refusal when one of them was changed since.
    """
    done: list[dict[str, Any]] = json.loads(zlib.decompress(row.content))
    at = session.connection()
    taken = bool(row.about.get("done"))
    if taken:
        _unchanged(session, row.id, done)
    for part in done:
        if taken:
            low, high = part["added"]
            part["rows"] = _rows(at, part["table"], f"id BETWEEN {low} AND {high}")
            at.exec_driver_sql(f"DELETE FROM {part['table']} WHERE id BETWEEN ? AND ?", (low, high))  # noqa: S608
        else:
            part["added"] = _numbered(at, part["table"], part["rows"]) or part["added"]
            _write(at, part["table"], part["rows"], "INSERT")
            part["rows"] = []
        numbers = ", ".join(str(each["id"]) for each in part["was"]) or "NULL"
        now = _rows(at, part["table"], f"id IN ({numbers})")
        _write(at, part["table"], part["was"], "REPLACE")
        part["was"] = now
    row.content = packed(done)
    row.about = {**row.about, "done": not taken}


def _numbered(at: Connection, table: str, rows: Sequence[dict[str, Any]]) -> list[int] | None:
    """New numbers for rows that come again, where others have theirs by now: their range; None where all are free."""
    if not rows:
        return None
    low, high = min(each["id"] for each in rows), max(each["id"] for each in rows)
    if at.exec_driver_sql(f"SELECT 1 FROM {table} WHERE id BETWEEN ? AND ? LIMIT 1", (low, high)).first() is None:  # noqa: S608
        return None
    first = int(at.exec_driver_sql(f"SELECT max(id) FROM {table}").scalar_one()) + 1  # noqa: S608
    for i, each in enumerate(rows):
        each["id"] = first + i
    return [first, first + len(rows) - 1]


def _rows(at: Connection, table: str, where: str) -> list[dict[str, Any]]:
    return [dict(each) for each in at.exec_driver_sql(f"SELECT * FROM {table} WHERE {where}").mappings()]  # noqa: S608


def _write(at: Connection, table: str, rows: Sequence[Mapping[str, Any]], how: str) -> None:
    if not rows:
        return
    names = list(rows[0])
    listed, marks = ", ".join(f'"{name}"' for name in names), ", ".join("?" * len(names))
    at.exec_driver_sql(f"{how} INTO {table} ({listed}) VALUES ({marks})", [tuple(row[name] for name in names) for row in rows])


def _unchanged(session: Session, pending: str, done: Sequence[Mapping[str, Any]]) -> None:
    """Raises: Refusal when a later decision that still holds changed an entry of the file."""
    mine = [(part["table"], range(part["added"][0], part["added"][1] + 1), {each["id"] for each in part["was"]}) for part in done]
    for later in session.scalars(select(UndoRow).order_by(UndoRow.id.desc())):
        images: list[Mapping[str, Any]] = list(later.before)
        if any(image.get("file") == pending for image in images):
            return
        if later.takes_back:
            continue  # what it took back came after the file, and left the entries as the file brought them
        for image in images:
            key = image.get("key", [None])[0]
            if any(image.get("table") == table and (key in added or key in changed) for table, added, changed in mine):
                raise Refusal("An entry of this file was changed again since: undo the later change first.")
