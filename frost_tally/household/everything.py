"""Everything in the store at once: taken out, brought back in place of what is there, deleted; a copy is kept before.

Why: docs/decisions/0040.
"""

import json
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import closing
from functools import cache
from math import isfinite
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from sqlalchemy import Engine

from ..core.errors import Refusal
from . import whole_file
from .models import Base
from .sound import check_sound
from .state import Stamp, higher, never_again, set_last, stale
from .store import backup, check_store, head, hold_today, migrate, versions
from .written import OF_THE_STORE, arm, counted, disarm

Rows = Iterable[Sequence[Any]]
Tables = Mapping[str, tuple[Sequence[str], Rows]]


def names() -> tuple[str, ...]:
    """The tables of what a household has, those that others refer to first."""
    return counted()


def schema() -> dict[str, Any]:
    """The JSON Schema of a document of everything, from the tables themselves."""
    kinds = {int: ["integer"], float: ["number"], bool: ["integer"], bytes: ["object"]}
    tables = {}
    for table in map(Base.metadata.tables.__getitem__, names()):
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
        "description": "Values as they are stored: times in UTC, levels 0 to 1, units by the names of the columns; bytes as base64. "
        "A table that is not there has no rows.",
        "type": "object",
        "required": ["format", "version", "tables"],
        "additionalProperties": False,
        "properties": {
            "format": {"const": "frost-tally-household"},
            "version": {"const": head()},
            "numbers": {"type": "object", "additionalProperties": {"type": "integer"}},
            "tables": {"type": "object", "properties": tables, "additionalProperties": False},
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


def build(version: str, tables: Tables, numbers: Mapping[str, int], beside: Path) -> tuple[str, ...]:
    """A store file from tables of a version, brought up to date, its values and the home that they make checked; returns the tables of that
    version that were not there. Raises: Refusal, and no file is left.
    """
    if version not in versions():
        raise Refusal(f"The document is of another version ({version[:20]}): install the newer Frost Tally.", "file")
    whole_file.discard(beside)
    try:
        with whole_file.plainly("It cannot be brought back", beside):
            whole_file.create(beside)
            beside.write_bytes(_empty(version))
            with closing(sqlite3.connect(beside)) as connection, connection:
                missing = tuple(each for each in _tables_of(connection) if each not in tables)
                for name, (columns, rows) in tables.items():
                    if version == head() and name in names() and tuple(columns) != columns_of(name):
                        raise whole_file.StoreError(f"“{name}” has other columns than its schema, or in another order")
                    _fill(connection, name, columns, rows)
                set_last(connection, numbers)
            if version != head():
                migrate(beside, held=False)
            check_store(beside)
            check_sound(beside)
            hold_today(beside)
        return missing
    except (whole_file.StoreError, UnicodeEncodeError, OverflowError) as problem:
        whole_file.discard(beside)
        raise Refusal(str(problem), "file") from problem


@cache
def _empty(version: str) -> bytes:
    """A store with the tables of a version and nothing in them."""
    with TemporaryDirectory() as folder:
        made = Path(folder) / "empty.db"
        whole_file.create(made)
        migrate(made, version)
        whole_file.settle(made)
        return made.read_bytes()


def _tables_of(connection: sqlite3.Connection) -> list[str]:
    """The tables of what a household has, in whatever version the file is."""
    known = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite~_%' ESCAPE '~'")
    return [name for (name,) in known if name not in ("alembic_version", *OF_THE_STORE)]


def _fill(connection: sqlite3.Connection, name: str, columns: Sequence[str], rows: Rows) -> None:
    there = {row[1]: row for row in connection.execute("SELECT * FROM pragma_table_info(?)", (name,))}
    if name not in _tables_of(connection) or set(columns) != set(there) or len(set(columns)) != len(columns):
        raise whole_file.StoreError(f"“{name[:40]}” is no table of that version, or has other columns")
    wells = [_well(declared, bool(not_null)) for _, _, declared, not_null, *_ in (there[each] for each in columns)]
    for i, row in enumerate(rows, 1):
        for column, value, well in zip(columns, row, wells, strict=True):
            if not well(value):
                raise whole_file.StoreError(f"row {i} of “{name}” has “{str(value)[:40]}” as {column}, which cannot be")
    listed, marks = ", ".join(f'"{column}"' for column in columns), ", ".join("?" * len(columns))
    connection.execute(f'DELETE FROM "{name}"')  # noqa: S608 - a table that is there
    connection.executemany(f'INSERT INTO "{name}" ({listed}) VALUES ({marks})', rows)  # noqa: S608


def _well(declared: str, needed: bool) -> Callable[[object], bool]:
    """Whether a value is of a column's declared kind, as the published schema has it."""
    kind = declared.upper().partition("(")[0]
    if kind in ("INTEGER", "BOOLEAN", "BIGINT"):
        return lambda value: (value is None and not needed) or (isinstance(value, int | float) and value == value // 1)
    if kind in ("FLOAT", "DOUBLE", "REAL", "NUMERIC"):
        return lambda value: (value is None and not needed) or (isinstance(value, int | float) and isfinite(value))
    plain = bytes if kind == "BLOB" else str
    return lambda value: (value is None and not needed) or isinstance(value, plain)


def tell(beside: Path, name: str, missing: Sequence[str]) -> None:
    """Note in a file that waits what it is called, and which tables it had not."""
    with closing(sqlite3.connect(beside)) as connection, connection:
        connection.execute("CREATE TABLE preview (name, missing)")
        connection.execute("INSERT INTO preview VALUES (?, ?)", (name, json.dumps(missing)))


def told(beside: Path) -> tuple[str, tuple[str, ...]]:
    """What was noted so."""
    with closing(sqlite3.connect(beside)) as connection:
        name, missing = connection.execute("SELECT name, missing FROM preview").fetchone()
        return str(name), tuple(json.loads(missing))


def put_in_place(engine: Engine, beside: Path, backups: Path, seen_revision: int) -> Path:
    """Bring back a whole store file in place of everything, in one transaction, while others read; returns the copy of what was there.

    Raises: Stale when the household moved on since `seen_revision`; nothing is changed then.
    """
    attach = f"ATTACH '{beside.as_posix().replace(chr(39), chr(39) * 2)}' AS coming"
    return _replace(engine, backups, _from_coming, attach, seen_revision)


def delete_all(engine: Engine, backups: Path) -> Path:
    """Delete everything, in one transaction; returns the copy of what was there."""
    return _replace(engine, backups, lambda connection, name: None)


def _from_coming(connection: sqlite3.Connection, name: str) -> None:
    listed = ", ".join(f'"{column}"' for column in columns_of(name))
    connection.execute(f'INSERT INTO main."{name}" ({listed}) SELECT {listed} FROM coming."{name}"{_in_order(name)}')  # noqa: S608


def _replace(
    engine: Engine,
    backups: Path,
    fill: Callable[[sqlite3.Connection, str], None],
    attach: str = "",
    seen_revision: int | None = None,
) -> Path:
    """Everything emptied and filled anew; nobody writes between the look at the revision, the copy and this."""
    with closing(sqlite3.connect(engine.url.database or "", timeout=whole_file.PATIENCE_S, isolation_level=None)) as connection:
        connection.execute("PRAGMA foreign_keys=ON")
        if attach:
            connection.execute(attach)
        connection.execute("BEGIN IMMEDIATE")
        here = Stamp(*connection.execute("SELECT revision, store FROM main.state").fetchone())
        if seen_revision is not None and str(here) != str(seen_revision):
            raise stale(connection.execute, seen_revision)
        kept = backup(Path(engine.url.database or ""), backups)
        try:
            _fill_anew(connection, fill, bool(attach))
        except BaseException:
            kept.unlink(missing_ok=True)  # nothing changed, so nothing was kept from before
            raise
        return kept


def _fill_anew(connection: sqlite3.Connection, fill: Callable[[sqlite3.Connection, str], None], coming: bool) -> None:
    """The steps of it, in the transaction that was begun."""
    connection.execute("PRAGMA defer_foreign_keys=ON")
    disarm(connection)
    for name in reversed(names()):
        connection.execute(f'DELETE FROM main."{name}"')  # noqa: S608 - our names
    given = dict(connection.execute("SELECT name, seq FROM main.sqlite_sequence"))
    for name in names():
        fill(connection, name)
    if coming:
        given = higher(given, dict(connection.execute("SELECT name, seq FROM coming.sqlite_sequence")))
    never_again(connection, given)
    arm(connection)
    connection.execute("COMMIT")
