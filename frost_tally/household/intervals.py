"""Intervals of files, meter readings and dated prices, in the store: what they would replace, taking them over, and back."""

import io

import numpy as np
from sqlalchemy import delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from ..core.units import Array, Ints
from .models import MeterRow, PendingRow, PriceRow

CHUNK = 2000
Columns = tuple[Ints, Ints, Array]
"""Start (seconds since 1970), minutes and value of each interval."""


def existing(session: Session, kind: str, tariff: int | None, start_s: Ints) -> Array:
    """Minutes and value of what is stored at the same starts, NaN where nothing is; shape (rows, 2)."""
    old = np.full((len(start_s), 2), np.nan)
    if not len(start_s):
        return old
    low, high = int(start_s[0]), int(start_s[-1])
    if kind == "readings":
        wanted = select(MeterRow.start_s, MeterRow.minutes, MeterRow.kwh).where(MeterRow.start_s.between(low, high))
    else:
        wanted = select(PriceRow.start_s, PriceRow.minutes, PriceRow.price_per_kwh).where(
            PriceRow.tariff_id == tariff, PriceRow.start_s.between(low, high)
        )
    rows = session.execute(wanted.order_by("start_s")).all()
    if rows:
        table = np.array([tuple(row) for row in rows], dtype=float)
        at = np.minimum(np.searchsorted(table[:, 0], start_s), len(table) - 1)
        hit = table[at, 0] == start_s
        old[hit] = table[at[hit], 1:]
    return old


def packed(columns: Columns, old: Array | None = None) -> bytes:
    """Intervals as the content of a pending file, with what they replaced once they are taken over."""
    start_s, minutes, value = columns
    out = io.BytesIO()
    np.savez_compressed(out, start=start_s, minutes=minutes, value=value, old=old if old is not None else np.zeros(0))
    return out.getvalue()


def unpacked(content: bytes) -> tuple[Columns, Array]:
    """The intervals of a pending file, and what they replaced."""
    with np.load(io.BytesIO(content)) as kept:
        return (kept["start"], kept["minutes"], kept["value"]), kept["old"]


def write(session: Session, kind: str, tariff: int | None, columns: Columns) -> None:
    """Write intervals, the new over the old."""
    if kind == "readings":
        statement, name, keys, extra = insert(MeterRow), "kwh", ["start_s"], {}
    else:
        statement, name, keys, extra = insert(PriceRow), "price_per_kwh", ["tariff_id", "start_s"], {"tariff_id": tariff}
    over = {"minutes": statement.excluded.minutes, name: statement.excluded[name]}
    statement = statement.on_conflict_do_update(index_elements=keys, set_=over)
    triples = zip(*(each.tolist() for each in columns), strict=True)
    rows = [{**extra, "start_s": int(a), "minutes": int(b), name: c} for a, b, c in triples]
    for i in range(0, len(rows), CHUNK):
        session.execute(statement, rows[i : i + CHUNK])


def turn(session: Session, row: PendingRow) -> None:
    """Take a prepared file over, or back when it was taken: rows that were new go, those that were changed are as before."""
    columns, old = unpacked(row.content)
    tariff = int(str(row.about["tariff"])) if row.about.get("tariff") else None
    if not row.about.get("done"):
        row.content = packed(columns, existing(session, row.kind, tariff, columns[0]))
        write(session, row.kind, tariff, columns)
    else:
        fresh = np.isnan(old[:, 1])
        _delete(session, row.kind, tariff, columns[0][fresh].tolist())
        write(session, row.kind, tariff, (columns[0][~fresh], old[~fresh, 0].astype(np.int64), old[~fresh, 1]))
    row.about = {**row.about, "done": not row.about.get("done")}


def _delete(session: Session, kind: str, tariff: int | None, starts: list[int]) -> None:
    for i in range(0, len(starts), 500):
        part = starts[i : i + 500]
        if kind == "readings":
            session.execute(delete(MeterRow).where(MeterRow.start_s.in_(part)))
        else:
            session.execute(delete(PriceRow).where(PriceRow.tariff_id == tariff, PriceRow.start_s.in_(part)))
