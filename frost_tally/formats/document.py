"""Everything a household has as one JSON document with a published schema (`schema/household.json`), from which it comes back exactly.

Each table has its columns and its rows; values are as they are stored: text, numbers, null, and bytes as base64.
"""

import base64
import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any

from ..core.errors import Refusal
from .tariff_json import parsed

FORMAT = "frost-tally-household"
SCHEMA = Path(__file__).parent / "schema" / "household.json"
AT_ONCE = 500
"""Rows of a piece: a page that hands on each row by itself spends nearly all of its time on that."""
Value = str | int | float | bytes | None


@dataclass(frozen=True)
class Table:
    """A table: the names of its columns, and its rows in the order they were entered."""

    columns: tuple[str, ...]
    rows: Iterable[Sequence[Value]]


@dataclass(frozen=True)
class Document:
    """A whole household: the version of its tables, the tables by name, and the last numbers that were given out."""

    version: str
    tables: Mapping[str, Table]
    numbers: Mapping[str, int]


def write_document(version: str, numbers: Mapping[str, int], tables: Iterable[tuple[str, Table]]) -> Iterator[str]:
    """The document as JSON text, a row a line, in pieces; a table's rows are asked for before the next table."""
    yield f'{{"format": {json.dumps(FORMAT)}, "version": {json.dumps(version)},\n'
    yield f'"numbers": {json.dumps(dict(numbers))},\n"tables": {{\n'
    for i, (name, table) in enumerate(tables):
        yield f'{"," if i else ""}{json.dumps(name)}: {{"columns": {json.dumps(list(table.columns))}, "rows": ['
        lines, between = (json.dumps([_out(value) for value in row], ensure_ascii=False) for row in table.rows), "\n"
        while some := list(islice(lines, AT_ONCE)):
            yield between + ",\n".join(some)
            between = ",\n"
        yield "]}\n"
    yield "}}\n"


def _out(value: Value) -> Any:
    return {"base64": base64.b64encode(value).decode()} if isinstance(value, bytes) else value


def read_document(content: bytes) -> Document:
    """A document as it was written. Raises: Refusal with the place of what is none."""
    found = parsed(content)
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise Refusal(f"The file is no document of a whole household: its format is not “{FORMAT}”.", "file")
    version, tables, numbers = found.get("version"), found.get("tables"), found.get("numbers", {})
    if not isinstance(version, str) or not isinstance(tables, dict) or not isinstance(numbers, dict):
        raise Refusal("The document lacks its version or its tables.", "file")
    if any(not isinstance(each, int) or isinstance(each, bool) for each in numbers.values()):
        raise Refusal("The document’s last numbers are no numbers.", "file")
    if more := set(found) - {"format", "version", "tables", "numbers"}:
        raise Refusal(f"The document has “{min(more)[:40]}”, which its schema does not know.", "file")
    return Document(version, {str(name): _table(str(name), table) for name, table in tables.items()}, numbers)


def _table(name: str, table: Any) -> Table:
    columns, rows = (table.get("columns"), table.get("rows")) if isinstance(table, dict) else (None, None)
    if isinstance(table, dict) and set(table) != {"columns", "rows"}:
        raise Refusal(f"“{name[:40]}” is no table with columns and rows alone.", "file")
    if not isinstance(columns, list) or not isinstance(rows, list) or not all(isinstance(each, str) for each in columns):
        raise Refusal(f"“{name[:40]}” is no table with columns and rows.", "file")
    made = []
    for i, row in enumerate(rows, 1):
        if not isinstance(row, list) or len(row) != len(columns):
            raise Refusal(f"Row {i} of “{name[:40]}” has not one value for each column.", "file")
        made.append([_in(name, i, value) for value in row])
    return Table(tuple(columns), made)


def _in(name: str, row: int, value: Any) -> Value:
    if isinstance(value, dict) and set(value) == {"base64"}:
        try:
            return base64.b64decode(value["base64"], validate=True)
        except (ValueError, TypeError):
            raise Refusal(f"Row {row} of “{name[:40]}” has bytes that are no base64.", "file") from None
    if value is None or (isinstance(value, str | int | float) and not isinstance(value, bool)):
        return value
    raise Refusal(f"Row {row} of “{name[:40]}” has a value that is neither text nor number.", "file")
