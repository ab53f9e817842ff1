"""Tables that hold their types and their sense: STRICT, with a check for every column; what cannot be is put aside, and said.

Each table is made as its model and the rules of `sound` have it, whatever steps led there; one that differs is made anew beside and
filled. The mapper's VARCHAR, DATETIME and JSON are no types of SQLite's there: all of them are TEXT. Why: docs/decisions/0068.
"""

import json
import re
import sqlite3
from collections.abc import Iterator, Mapping
from datetime import date, datetime, time
from functools import cache
from math import isfinite
from typing import Any

from sqlalchemy import CheckConstraint, Column, MetaData, Table
from sqlalchemy.dialects import sqlite
from sqlalchemy.schema import CreateIndex, CreateTable

from .models import Base
from .sound import has_sense, kind_rules, listed_codes, number_range, rules, senseless
from .state import set_last

ASIDE = "aside"
PARTS = frozenset(("household", "state", "written", "present", "person", "place", "outlet", "tariff", "car", "habit"))
"""What the home is made of: such a row stays, whatever was in it, for all else hangs on it."""
WIDE = 1e6
SOMETHING: Mapping[str, object] = {
    "place.zone": "UTC", "household.currency": "EUR", "person.currency": "EUR", "str": "?",
    "datetime": "2000-01-01 00:00:00.000000", "date": "2000-01-01", "time": "07:00:00.000000",
}  # fmt: skip
"""What stands in a part of the home until somebody mends it."""
ALIKE = {datetime: "strftime('%Y-%m-%d %H:%M:%f', {c}) || '000'", date: "date({c})", time: "strftime('%H:%M:%f', {c}) || '000'"}
"""How the mapper writes what somebody else wrote as another form of the same moment."""


_TYPES = {
    **dict.fromkeys(("VARCHAR", "DATETIME", "DATE", "TIME", "JSON"), "TEXT"), **dict.fromkeys(("BOOLEAN", "BIGINT"), "INTEGER"),
    **dict.fromkeys(("DOUBLE", "FLOAT"), "REAL"),
}  # fmt: skip
"""The types that a STRICT table knows, for the mapper's."""
_TYPED = re.compile(rf'^(\t"?\w+"?) ({"|".join(_TYPES)})\b', re.MULTILINE)


_ADDED = re.compile(rf'^(ALTER TABLE \S+ ADD COLUMN "?\w+"?) ({"|".join(_TYPES)})\b')


def of_strict_types(statement: str) -> str:
    """A statement that makes a table or adds a column, with types that a STRICT table knows: an older store may have such."""
    asked = _TYPED if statement.lstrip().startswith("CREATE TABLE") else _ADDED
    return asked.sub(lambda found: f"{found[1]} {_TYPES[found[2]]}", statement)


@cache
def _wanted() -> dict[str, tuple[str, tuple[str, ...]]]:
    """How each table is made, and its indexes."""
    dialect, copies = sqlite.dialect(), MetaData()
    for table in Base.metadata.sorted_tables:
        made = table.to_metadata(copies)
        made.dialect_options["sqlite"]["strict"] = True
        for check in _checks(table):
            made.append_constraint(CheckConstraint(check))
    return {
        name: (
            _TYPED.sub(lambda found: f"{found[1]} {_TYPES[found[2]]}", str(CreateTable(made).compile(dialect=dialect)).strip()),
            tuple(
                str(CreateIndex(index).compile(dialect=dialect))
                for index in sorted(made.indexes, key=lambda each: str(each.name))
            ),
        )
        for name, made in copies.tables.items()
    }


def _checks(table: Table) -> Iterator[str]:
    """What each value of a table must keep."""
    for column in table.columns:
        for rule in rules(table.name, column, quick=True):
            yield _holds(column.name, rule)
    for where, name, rule in kind_rules(table.name):
        yield f"NOT ({where}) OR {_holds(name, rule)}"


def _holds(column: str, rule: str) -> str:
    name = f'"{column}"'
    return f"{name} IS NULL OR coalesce({rule.format(c=name)}, 0)"


def hold(connection: sqlite3.Connection) -> None:
    """Make every table that is not as it should be anew, in the caller's transaction; nothing refers to a row that is gone afterwards."""
    given = dict(connection.execute("SELECT name, seq FROM sqlite_sequence"))
    present = dict(connection.execute("SELECT name, sql FROM sqlite_master WHERE type = 'table'"))
    anew = [table for table in Base.metadata.sorted_tables if _body(present[table.name]) != _body(_wanted()[table.name][0])]
    gone = 0
    for table in anew:
        _write_moments_alike(connection, table)
        gone += _put_values_aside(connection, table)
    for table in anew:
        _make_anew(connection, table)
    gone += _put_senseless_aside(connection)
    while gone:
        gone = _put_orphans_aside(connection)
    set_last(connection, given)


def _body(made: str) -> str:
    """How a table is made, without its name: renaming writes that anew."""
    return made[made.index("(") :].strip()


def _make_anew(connection: sqlite3.Connection, table: Table) -> None:
    made, indexes = _wanted()[table.name]
    beside = f"anew_{table.name}"
    columns = ", ".join(f'"{column.name}"' for column in table.columns)
    order = " ORDER BY rowid" if table.dialect_options["sqlite"]["with_rowid"] else ""
    connection.execute(f'CREATE TABLE "{beside}" {_body(made)}')
    connection.execute(f'INSERT INTO "{beside}" ({columns}) SELECT {columns} FROM "{table.name}"{order}')  # noqa: S608 - our names
    connection.execute(f'DROP TABLE "{table.name}"')
    connection.execute(f'ALTER TABLE "{beside}" RENAME TO "{table.name}"')
    for each in indexes:
        connection.execute(each)


def _write_moments_alike(connection: sqlite3.Connection, table: Table) -> None:
    for column in table.columns:
        if (alike := ALIKE.get(column.type.python_type)) is None:
            continue
        name, told = _named(column), alike.format(c=_named(column))
        other = f"NOT coalesce({next(rules(table.name, column, quick=True)).format(c=name)}, 0) AND {told} IS NOT NULL"
        connection.execute(f"UPDATE \"{table.name}\" SET {name} = {told} WHERE typeof({name}) = 'text' AND {other}")  # noqa: S608 - our names


def _put_values_aside(connection: sqlite3.Connection, table: Table) -> int:
    """What cannot be in a table: another value in its place where one can be thought of, else its row goes; how many rows went."""
    gone = 0
    for column in table.columns:
        keeps = [f"coalesce({rule.format(c=_named(column))}, 0)" for rule in rules(table.name, column, quick=True)]
        wrong = f"{_named(column)} IS NOT NULL AND NOT ({' AND '.join([f'({_of_type(column)})', *keeps])})"
        if not column.nullable:
            wrong = f"({wrong}) OR {_named(column)} IS NULL"
        for row in _rows(connection, table, wrong):
            instead = _instead(table, column, row[column.name])
            _note(connection, table, row, column.name, instead)
            if instead is _NOTHING:
                gone += _delete(connection, table, row)
            else:
                _set(connection, table, row, column.name, instead)
    for where, name, rule in kind_rules(table.name):
        for row in _rows(connection, table, f"({where}) AND NOT ({_holds(name, rule)})"):
            _note(connection, table, row, name, _NOTHING)
            gone += _delete(connection, table, row)
    return gone


def _put_senseless_aside(connection: sqlite3.Connection) -> int:
    """The same for what only we can judge."""
    gone = 0
    for name, column, value in list(senseless(connection)):
        table, place = Base.metadata.tables[name], f"{name}.{column}"
        for row in _rows(connection, table, f'"{column}" IS ?', value):
            instead = _instead(table, table.c[column], value)
            if name not in PARTS and (instead is _NOTHING or not has_sense(place, instead)):
                instead = _NOTHING
                gone += _delete(connection, table, row)
            else:
                _set(connection, table, row, column, instead)
            _note(connection, table, row, column, instead)
    return gone


_NOTHING = object()


def _instead(table: Table, column: Column[Any], value: object) -> object:
    """What stands in a column in place of what cannot be; `_NOTHING` where nothing can be thought of. A part of the home never goes."""
    if column.nullable:
        return None
    place, kind, default = f"{table.name}.{column.name}", column.type.python_type, column.default
    if default is not None and default.is_scalar:
        return _plain(getattr(default, "arg", None))
    if kind is object:
        return json.dumps(_made(default))
    if codes := listed_codes(place):
        return codes[0]
    if column.primary_key or column.foreign_keys:
        return _NOTHING
    number = _number(value)
    if kind in (int, float) and (number is not None or table.name in PARTS):
        low, high = number_range(column.name)
        middle = (low + high) / 2 if high - low < WIDE else 0.0
        return kind(middle if number is None else min(max(number, low), high))
    return SOMETHING.get(place, SOMETHING.get(kind.__name__, _NOTHING)) if table.name in PARTS else _NOTHING


def _made(default: Any) -> object:
    return default.arg(None) if default is not None and default.is_callable else []


def _plain(value: object) -> object:
    return int(value) if isinstance(value, bool) else value


def _number(value: object) -> float | None:
    """A number, also one that stands there as text."""
    try:
        found = float(str(value))
    except ValueError:
        return None
    return found if isfinite(found) else None


def _named(column: Column[Any]) -> str:
    return f'"{column.name}"'


def _of_type(column: Column[Any]) -> str:
    """Whether a value can be in a STRICT column."""
    kind, name = column.type.python_type, _named(column)
    if kind in (int, bool):
        return f"typeof({name}) = 'integer' OR (typeof({name}) = 'real' AND {name} = CAST({name} AS INTEGER))"
    if kind is float:
        return f"typeof({name}) IN ('real', 'integer')"
    return f"typeof({name}) = '{'blob' if kind is bytes else 'text'}'"


def _rows(connection: sqlite3.Connection, table: Table, where: str, *values: object) -> list[dict[str, Any]]:
    found = connection.execute(f'SELECT * FROM "{table.name}" WHERE {where}', values)  # noqa: S608 - our names and rules
    names = [each[0] for each in found.description]
    return [dict(zip(names, row, strict=True)) for row in found]


def _key(table: Table, row: dict[str, Any]) -> tuple[str, list[Any]]:
    names = [column.name for column in table.primary_key]
    return " AND ".join(f'"{name}" IS ?' for name in names), [row[name] for name in names]


def _set(connection: sqlite3.Connection, table: Table, row: dict[str, Any], name: str, value: object) -> None:
    where, key = _key(table, row)
    connection.execute(f'UPDATE "{table.name}" SET "{name}" = ? WHERE {where}', (value, *key))  # noqa: S608 - our names


def _delete(connection: sqlite3.Connection, table: Table, row: dict[str, Any]) -> int:
    where, key = _key(table, row)
    return connection.execute(f'DELETE FROM "{table.name}" WHERE {where}', key).rowcount  # noqa: S608 - our names


def _note(connection: sqlite3.Connection, table: Table, row: dict[str, Any], name: str, instead: object) -> None:
    """Write down what was put aside: the value and, when its row went, all of it."""
    gone = instead is _NOTHING
    told = {each: value.hex() if isinstance(value, bytes) else value for each, value in row.items()}
    became = None if gone or instead is None else str(instead)
    connection.execute(
        f'INSERT INTO "{ASIDE}" (at, place, row, value, became, gone) VALUES '  # noqa: S608 - our name
        "(strftime('%Y-%m-%d %H:%M:%f000', 'now'), ?, ?, ?, ?, ?)",
        (f"{table.name}.{name}", json.dumps(told, default=str), str(row.get(name))[:200], became, gone),
    )


def _put_orphans_aside(connection: sqlite3.Connection) -> int:
    """Rows whose parents went, level by level; how many these were. What may stand alone stays, and refers to nothing."""
    gone = 0
    for name, rowid, parent, _ in connection.execute("PRAGMA foreign_key_check").fetchall():
        table = Base.metadata.tables[name]
        child = next(each.parent for each in table.foreign_keys if each.column.table.name == parent)
        for row in _rows(connection, table, f"rowid = {int(rowid)}"):
            if child.nullable:
                _set(connection, table, row, child.name, None)
            else:
                _note(connection, table, row, child.name, _NOTHING)
                gone += _delete(connection, table, row)
    return gone
