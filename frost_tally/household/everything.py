"""Everything in the store at once: taken out, brought back in place of what is there, deleted; a copy is kept before."""

import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import Engine

from ..core.errors import Refusal
from . import whole_file
from .models import Base
from .store import backup, check_store, head, migrate, versions

Rows = Iterable[Sequence[Any]]
Tables = Mapping[str, tuple[Sequence[str], Rows]]


def names() -> tuple[str, ...]:
    """The tables, those that others refer to first."""
    return tuple(table.name for table in Base.metadata.sorted_tables)


def schema() -> dict[str, Any]:
    """The JSON Schema of a document of everything, from the tables themselves."""
    kinds = {int: ["integer"], float: ["number"], bool: ["integer"], bytes: ["object"]}
    tables = {}
    for table in Base.metadata.sorted_tables:
        cells = []
        for column in table.columns:
            kind = kinds.get(column.type.python_type, ["string"])
            cells.append({"title": column.name, "type": [*kind, "null"] if column.nullable else kind})
        columns = [column.name for column in table.columns]
        row = {"type": "array", "prefixItems": cells, "minItems": len(cells), "maxItems": len(cells)}
        properties = {"columns": {"const": columns}, "rows": {"type": "array", "items": row}}
        tables[table.name] = {
            "type": "object",
            "required": ["columns", "rows"],
            "properties": properties,
            "additionalProperties": False,
        }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Everything a Frost Tally household has",
        "description": "Values as they are stored: times in UTC, levels 0 to 1, units by the names of the columns; bytes as base64.",
        "type": "object",
        "required": ["format", "version", "tables"],
        "additionalProperties": False,
        "properties": {
            "format": {"const": "frost-tally-household"},
            "version": {"const": head()},
            "numbers": {"type": "object", "additionalProperties": {"type": "integer"}},
            "tables": {"type": "object", "required": list(tables), "properties": tables, "additionalProperties": False},
        },
    }


def columns_of(table: str) -> tuple[str, ...]:
    """The columns of a table, in the order of its definition."""
    return tuple(column.name for column in Base.metadata.tables[table].columns)


def taken_out(database: Path) -> Iterator[tuple[str, Sequence[str], Rows]]:
    """Every table with its columns and rows, as they are stored, all of one moment."""
    with closing(sqlite3.connect(f"{database.absolute().as_uri()}?mode=ro", uri=True)) as connection:
        connection.execute("BEGIN")
        for name in names():
            columns = columns_of(name)
            listed = ", ".join(f'"{column}"' for column in columns)
            yield name, columns, connection.execute(f'SELECT {listed} FROM "{name}"{_in_order(name)}')  # noqa: S608 - our names


def _in_order(name: str) -> str:
    """The order in which rows were entered, where a table keeps it."""
    return " ORDER BY rowid" if Base.metadata.tables[name].dialect_options["sqlite"]["with_rowid"] else ""


def last_numbers(database: Path) -> dict[str, int]:
    """The last numbers that were given out, of tables that never give one twice."""
    with closing(sqlite3.connect(f"{database.absolute().as_uri()}?mode=ro", uri=True)) as connection:
        return dict(connection.execute("SELECT name, seq FROM sqlite_sequence"))


def build(version: str, tables: Tables, numbers: Mapping[str, int], beside: Path) -> None:
    """A store file from tables of a version, brought up to date and checked. Raises: Refusal, and no file is left."""
    if version not in versions():
        raise Refusal(f"The document is of another version ({version[:20]}): install the newer Frost Tally.", "file")
    whole_file.discard(beside)
    try:
        with whole_file.plainly("It cannot be brought back", beside):
            whole_file.create(beside)
            migrate(beside, version)
            with closing(sqlite3.connect(beside)) as connection, connection:
                for name, (columns, rows) in tables.items():
                    _fill(connection, name, columns, rows)
                for name, last in numbers.items():
                    connection.execute("UPDATE sqlite_sequence SET seq = ? WHERE name = ?", (last, name))
                    connection.execute("INSERT INTO sqlite_sequence SELECT ?, ? WHERE changes() = 0", (name, last))
            migrate(beside)
            check_store(beside)
    except (whole_file.StoreError, UnicodeEncodeError, OverflowError) as problem:
        whole_file.discard(beside)
        raise Refusal(str(problem), "file") from problem


def _fill(connection: sqlite3.Connection, name: str, columns: Sequence[str], rows: Rows) -> None:
    there = [row[1] for row in connection.execute("SELECT * FROM pragma_table_info(?)", (name,))]
    if not there or set(columns) != set(there) or len(set(columns)) != len(columns):
        raise whole_file.StoreError(f"“{name[:40]}” is no table of that version, or has other columns")
    listed, marks = ", ".join(f'"{column}"' for column in columns), ", ".join("?" * len(columns))
    connection.execute(f'DELETE FROM "{name}"')  # noqa: S608 - a table that is there
    connection.executemany(f'INSERT INTO "{name}" ({listed}) VALUES ({marks})', rows)  # noqa: S608


def put_in_place(engine: Engine, beside: Path, backups: Path) -> Path:
    """Bring back a whole store file in place of everything, in one transaction, while others read; returns the copy of what was there."""
    kept = backup(Path(engine.url.database or ""), backups)
    _replace(engine, f"ATTACH '{beside.as_posix().replace(chr(39), chr(39) * 2)}' AS coming", _from_coming)
    return kept


def delete_all(engine: Engine, backups: Path) -> Path:
    """Delete everything, in one transaction; returns the copy of what was there."""
    kept = backup(Path(engine.url.database or ""), backups)
    _replace(engine, "", lambda connection, name: None)
    return kept


def _from_coming(connection: sqlite3.Connection, name: str) -> None:
    listed = ", ".join(f'"{column}"' for column in columns_of(name))
    connection.execute(f'INSERT INTO main."{name}" ({listed}) SELECT {listed} FROM coming."{name}"{_in_order(name)}')  # noqa: S608


def _replace(engine: Engine, attach: str, fill: Callable[[sqlite3.Connection, str], None]) -> None:
    with closing(sqlite3.connect(engine.url.database or "", timeout=whole_file.PATIENCE_S, isolation_level=None)) as connection:
        connection.execute("PRAGMA foreign_keys=ON")
        if attach:
            connection.execute(attach)
        connection.execute("BEGIN IMMEDIATE")
        connection.execute("PRAGMA defer_foreign_keys=ON")
        for name in reversed(names()):
            connection.execute(f'DELETE FROM main."{name}"')  # noqa: S608 - our names
        for name in names():
            fill(connection, name)
        if attach:
            connection.execute("DELETE FROM main.sqlite_sequence")
            connection.execute("INSERT INTO main.sqlite_sequence SELECT * FROM coming.sqlite_sequence")
        connection.execute("COMMIT")
