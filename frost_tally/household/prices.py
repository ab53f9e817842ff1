"""Dated prices of tariffs, and tariffs with them."""

from dataclasses import replace
from datetime import datetime

import numpy as np
from sqlalchemy import bindparam, func, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from ..core.charge.prices import Series
from ..core.charge.tariff import Tariff
from ..core.parts import Contract
from .models import PriceRow

CHUNK = 5000
_PRICES = (
    select(PriceRow.start_s, PriceRow.minutes, PriceRow.price_per_kwh)
    .where(
        PriceRow.tariff_id == bindparam("tariff_id"),
        PriceRow.start_s > bindparam("after_s"),
        PriceRow.start_s < bindparam("before_s"),
    )
    .order_by(PriceRow.start_s)
)


def with_prices(session: Session, contract: Contract, span: tuple[datetime, datetime]) -> Tariff:
    """A contract's tariff with the dated prices that touch a span of time, its followers' too."""
    after = contract.following
    following = None if after is None else with_prices(session, after, span)
    return replace(contract.tariff, series=dated_prices(session, contract.id, *span), following=following)


def dated_prices(session: Session, tariff_id: int, start: datetime, end: datetime) -> Series | None:
    """A tariff's dated prices that touch a span of time; None without any."""
    span = {"after_s": int(start.timestamp()) - 3600, "before_s": int(end.timestamp())}
    found = session.execute(_PRICES, {"tariff_id": tariff_id, **span}).all()
    if not found:
        return None
    table = np.array([tuple(row) for row in found], dtype=float)
    starts = table[:, 0].astype(np.int64)
    return Series(starts, starts + 60 * table[:, 1].astype(np.int64), table[:, 2])


def prices_known(session: Session, tariff_id: int) -> tuple[int, int | None, int | None]:
    """How many dated prices a tariff has, and from when until when (s since 1970)."""
    ends = func.max(PriceRow.start_s + 60 * PriceRow.minutes)
    wanted = select(func.count(), func.min(PriceRow.start_s), ends).where(PriceRow.tariff_id == tariff_id)
    count, first, last = session.execute(wanted).one()
    return count, first, last


def put_prices(session: Session, number: int, series: Series) -> int:
    """Write dated prices, the new over the old; returns how many."""
    rows = [
        {"tariff_id": number, "start_s": a, "minutes": (b - a) // 60, "price_per_kwh": price}
        for a, b, price in zip(series.start_s.tolist(), series.end_s.tolist(), series.price_per_kwh.tolist(), strict=True)
    ]
    for i in range(0, len(rows), CHUNK):
        statement = insert(PriceRow)
        over = {"minutes": statement.excluded.minutes, "price_per_kwh": statement.excluded.price_per_kwh}
        session.execute(statement.on_conflict_do_update(index_elements=["tariff_id", "start_s"], set_=over), rows[i : i + CHUNK])
    return len(rows)
