"""Intervals of files, meter readings and dated prices, in the store: what they would replace, taking them over, and back."""

import io

import numpy as np
from sqlalchemy import Column, Table, delete, func, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from ..core.units import Array, Ints
from .models import Base, MeterRow, PendingRow, PriceRow, WeatherRow

CHUNK = 2000
Columns = tuple[Ints, Ints, Array]
"""Start (seconds since 1970), minutes and value of each interval."""


def existing(session: Session, kind: str, tariff: int | None, start_s: Ints) -> Array:
    """Minutes and value of what is stored at the same starts, NaN where nothing is; shape (rows, 2)."""
    old = np.full((len(start_s), 2), np.nan)
    if not len(start_s):
        return old
    low, high = int(start_s[0]), int(start_s[-1])
    table, value, keys = _table(kind, tariff)
    wanted = select(table.c.start_s, table.c.minutes, value).where(
        table.c.start_s.between(low, high), *(table.c[name] == number for name, number in keys.items())
    )
    rows = session.execute(wanted.order_by("start_s")).all()
    if rows:
        stored = np.array([tuple(row) for row in rows], dtype=float)
        at = np.minimum(np.searchsorted(stored[:, 0], start_s), len(stored) - 1)
        hit = stored[at, 0] == start_s
        old[hit] = stored[at[hit], 1:]
    return old


def everything(session: Session, kind: str) -> list[tuple[int, int, float]]:
    """All intervals of a kind that is not told apart by more than its start: start (s since 1970), minutes, value."""
    table, value, _ = _table(kind, None)
    return [tuple(row) for row in session.execute(select(table.c.start_s, table.c.minutes, value).order_by(table.c.start_s))]


def weather_hours(session: Session) -> tuple[Ints, Array] | None:
    """Starts (s since 1970) and temperatures (°C) of all hours from files; None without any."""
    rows = session.execute(select(WeatherRow.start_s, WeatherRow.temp_c).order_by(WeatherRow.start_s)).all()
    if not rows:
        return None
    table = np.array([tuple(row) for row in rows], dtype=float)
    return table[:, 0].astype(np.int64), table[:, 1]


def meter_readings(session: Session, start_s: float, end_s: float) -> Columns | None:
    """What the house's meter counted from one time to another (s since 1970), kWh; None without any."""
    wanted = select(MeterRow.start_s, MeterRow.minutes, MeterRow.kwh)
    rows = session.execute(wanted.where(MeterRow.start_s >= start_s, MeterRow.start_s < end_s)).all()
    if not rows:
        return None
    table = np.array([tuple(row) for row in rows], dtype=float)
    return table[:, 0].astype(np.int64), table[:, 1].astype(np.int64), table[:, 2]


def meter_count(session: Session) -> int:
    """How many readings of the house's meter are stored."""
    return session.scalar(select(func.count()).select_from(MeterRow)) or 0


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
    table, value, keys = _table(kind, tariff)
    statement, name = insert(table), value.name
    over = {"minutes": statement.excluded.minutes, name: statement.excluded[name]}
    statement = statement.on_conflict_do_update(index_elements=[*keys, "start_s"], set_=over)
    triples = zip(*(each.tolist() for each in columns), strict=True)
    rows = [{**keys, "start_s": int(a), "minutes": int(b), name: c} for a, b, c in triples]
    for i in range(0, len(rows), CHUNK):
        session.execute(statement, rows[i : i + CHUNK])


def turn(session: Session, number: str) -> None:
    """Take a prepared file over, or back when it was taken: rows that were new go, those that were changed are as before."""
    row = session.get_one(PendingRow, number)
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
    table, _, keys = _table(kind, tariff)
    for i in range(0, len(starts), 500):
        part = starts[i : i + 500]
        session.execute(
            delete(table).where(table.c.start_s.in_(part), *(table.c[name] == number for name, number in keys.items()))
        )


def _table(kind: str, tariff: int | None) -> tuple[Table, Column[float], dict[str, int | None]]:
    """Where intervals of a kind are: the table, its column of values, and what else its rows are told apart by."""
    row, value = TABLES[kind]
    table = Base.metadata.tables[row.__tablename__]
    return table, table.c[value], {"tariff_id": tariff} if kind == "prices" else {}


TABLES = {"readings": (MeterRow, "kwh"), "weather": (WeatherRow, "temp_c"), "prices": (PriceRow, "price_per_kwh")}
"""The tables of intervals: a new kind is a table and a line here."""
