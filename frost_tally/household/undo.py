"""Undo: what rows were before a change, kept as they lie in the file and put back as they were."""

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import text
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from .models import UndoRow

Scope = tuple[str, str, int]
CHILDREN = {"tariff": (("tariff_band", "tariff_id"), ("season", "tariff_id"))}
TABLES = {
    "car": "id",
    "outlet": "id",
    "place": "id",
    "person": "id",
    "tariff": "id",
    "household": "id",
    "tyre": "id",
    "usual_day": "id",
    "departure": "id",
}
KEPT = 200


def remember(session: Session, words: str, whom: Sequence[tuple[str, int]], new: Sequence[tuple[str, int]] = ()) -> int:
    """Keep what some rows (table, number) are now, with what belongs to them; returns the number to undo it by.

    Call it before the change, in its transaction. Rows in `new` were made by the change: undoing takes them away again.
    """
    session.flush()
    before = [_kept(session, table, number) for table, number in whom]
    before += [{"table": table, "number": number, "rows": {table: []}} for table, number in new]
    row = UndoRow(made_at=datetime.now(UTC), words=words, before=before)
    session.add(row)
    session.flush()
    session.execute(text("DELETE FROM undo WHERE id <= :old"), {"old": row.id - KEPT})
    return row.id


def _kept(session: Session, table: str, number: int) -> dict[str, object]:
    scopes = [(table, TABLES[table]), *CHILDREN.get(table, ())]
    rows = {
        name: [dict(r) for r in session.execute(text(f"SELECT * FROM {name} WHERE {key} = :n"), {"n": number}).mappings()]  # noqa: S608
        for name, key in scopes
    }
    return {"table": table, "number": number, "rows": rows}


def put_back(session: Session, undo_id: int) -> str:
    """Put the rows back as they were; returns the words of the change. Raises: Refusal when there is nothing to undo."""
    found = session.get(UndoRow, undo_id)
    if found is None:
        raise Refusal("There is nothing left to undo.")
    session.flush()
    for each in found.before:
        _restore(session, str(each["table"]), int(str(each["number"])), each["rows"])  # type: ignore[arg-type]
    words = found.words
    session.delete(found)
    session.expire_all()
    return words


def _restore(session: Session, table: str, number: int, rows: dict[str, list[dict[str, object]]]) -> None:
    for name, key in CHILDREN.get(table, ()):
        session.execute(text(f"DELETE FROM {name} WHERE {key} = :n"), {"n": number})  # noqa: S608 - names are ours
    key = TABLES[table]
    if not rows[table]:
        session.execute(text(f"DELETE FROM {table} WHERE {key} = :n"), {"n": number})  # noqa: S608
        return
    for name, kept in rows.items():
        for row in kept:
            row = {column: value for column, value in row.items() if (name, column) != ("household", "revision")}
            changes = ", ".join(f'"{column}" = :{column}' for column in row if column != "id")
            if session.execute(text(f"UPDATE {name} SET {changes} WHERE id = :id"), row).rowcount == 0:  # type: ignore[attr-defined]  # noqa: S608
                columns, marks = (", ".join(each.format(column) for column in row) for each in ('"{}"', ":{}"))
                session.execute(text(f"INSERT INTO {name} ({columns}) VALUES ({marks})"), row)  # noqa: S608
