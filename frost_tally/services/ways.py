"""Long ways with their posts, a car's own curve of fast charging, and what stops gave: kept, noted, and what they teach."""

from collections.abc import Sequence
from datetime import datetime, timedelta

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.charge.fast import learnt_share, own_points
from ..core.charge.stop_table import SLOW_KW, Post
from ..core.errors import Refusal, require
from ..household.home import Home
from ..household.models import CarRow, ChargeRow, WayRow
from ..household.parts import car_of, place_of, settled
from .climate import climate_of
from .log_entry import car_row

LATEST = 12


def ways(session: Session) -> list[WayRow]:
    """The kept ways, in the order they were entered."""
    return list(session.scalars(select(WayRow).where(WayRow.withdrawn.is_(False)).order_by(WayRow.id)))


def posts_of(way: WayRow) -> tuple[Post, ...]:
    """The posts of a kept way."""
    return tuple(
        Post(
            km=float(km),
            kw=float(kw),
            price_per_kwh=float(price),
            name=str(name),
            stands_min=float(stands),
            shared_kw=float(shared),
        )
        for km, kw, price, name, stands, shared in ((*each, 0.0)[:6] for each in way.posts)
    )


def keep_way(
    home: Home, way_id: int | None, name: str, km: float, country_km: float, posts: Sequence[Post], seen_revision: int | None
) -> tuple[int, int]:
    """Keep a way with its posts, a new one when None; returns its number and the undo number. Raises: Refusal, OutOfRange, Stale."""
    require(km, 20, 2000, "The way", "km", "km")
    require(country_km, 0, km, "Country road", "km", "country_km")
    beyond = next((each for each in posts if each.km >= km), None)
    if beyond is not None:
        which = f"“{beyond.name}”" if beyond.name else "A post"
        raise Refusal(f"{which} lies beyond the end of the way.", "posts")
    with home.deciding("Way kept", seen_revision) as session:
        row = session.get(WayRow, way_id) if way_id is not None else None
        if row is None:
            row = WayRow()
            session.add(row)
        row.name, row.km, row.country_km, row.withdrawn = name, km, country_km, False
        row.posts = [[each.km, each.kw, each.price_per_kwh, each.name, each.stands_min, each.shared_kw] for each in posts]
        session.flush()
        number = row.id
    return number, session.number


def keep_curve(home: Home, car_id: int, points: Sequence[tuple[float, float]], seen_revision: int | None) -> int:
    """Keep a car's own curve of fast charging (none: the usual one); returns the undo number. Raises: OutOfRange, Stale."""
    curve = own_points(points) if points else ()
    with home.deciding("The car’s curve kept", seen_revision) as session:
        car_row(session, car_id).fast_points = [[level, kw] for level, kw in curve]
    return session.number


def note_stop(
    home: Home, car_id: int, now: datetime, *, soc_from: float, soc_to: float, minutes: float, kw: float, place: str,
    seen_revision: int | None,
) -> int:  # fmt: skip
    """Note what a stop gave, as a charge on the way in the log that has just ended; returns the undo number. Raises: Refusal, Stale."""
    if soc_to <= soc_from:
        raise Refusal("It left with no more than it came with: check the two levels.", "soc_to")
    require(minutes, 1, 600, "The stop", "min", "minutes")
    with home.deciding("Stop noted", seen_revision) as session:
        usable = car_of(car_row(session, car_id)).pack.usable_kwh
        session.add(
            ChargeRow(
                car_id=car_id, site="fast" if kw > SLOW_KW else "elsewhere", place=place, begun_at=now - timedelta(minutes=minutes),
                ended_at=now, soc_start=soc_from, soc_end=soc_to, pack_kwh=(soc_to - soc_from) * usable, post_kw=kw, assumed=["pack_kwh"],
            )
        )  # fmt: skip
    return session.number


def taught(session: Session, row: CarRow) -> tuple[float | None, int]:
    """What the log's fast charges say of the car's curve (its share, None: too few), and how many there were."""

    def read() -> tuple[float | None, int]:
        fast = (ChargeRow.car_id == row.id, ChargeRow.site == "fast")
        count = int(session.scalar(select(func.count()).select_from(ChargeRow).where(*fast)) or 0)
        known = (each.is_not(None) for each in (ChargeRow.soc_start, ChargeRow.soc_end, ChargeRow.ended_at, ChargeRow.post_kw))
        latest = session.scalars(select(ChargeRow).where(*fast, *known).order_by(ChargeRow.begun_at.desc()).limit(LATEST))
        air = climate_of(session, place_of(row, session))
        told = [
            (
                each.soc_start,
                each.soc_end,
                (each.ended_at - each.begun_at).total_seconds() / 60.0,
                each.post_kw,
                air.temperature_c(each.begun_at) if each.out_c is None else each.out_c,
            )
            for each in latest
            if each.ended_at
        ]
        return (learnt_share(car_of(row), *np.array(told, dtype=float).T) if told else None), count

    return settled(session, ("fast charges", row.id), read)
