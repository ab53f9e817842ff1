"""Long ways with their posts, a car's own curve of fast charging, and what stops gave: kept, noted, and what they teach."""

from collections.abc import Sequence
from datetime import datetime

import numpy as np
from babel.core import get_global

from ...core.advice.road_speeds import allowed_kmh
from ...core.charge.fast import learnt_share, own_points
from ...core.charge.stop_table import SLOW_KW, Post
from ...core.errors import Refusal, require
from ...core.home import OwnedCar
from ...household.log_facts import Stop, fast_charges, note_stop_on_the_way
from ...household.parts import write_curve, write_way
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.climate import climate_of
from ..shared.derived import derived

LATEST = 12


def roads_allow(owned: OwnedCar) -> float:
    """What motorways usually allow in the country of the place where a car stands, km/h; its clock says which."""
    return allowed_kmh(get_global("zone_territories").get(owned.zone.key, ""))


def keep_way(
    household: Household,
    way_id: int | None,
    name: str,
    km: float,
    country_km: float,
    *,
    posts: Sequence[Post],
    seen_revision: int | None,
    limit_kmh: float | None = None,
) -> tuple[int, int]:
    """Keep a way with its posts, a new one when None; returns its number and the undo number. Raises: Refusal, OutOfRange, Stale."""
    require(km, 20, 2000, "The way", "km", "km")
    require(country_km, 0, km, "Country road", "km", "country_km")
    beyond = next((each for each in posts if each.km > km + 1e-9), None)
    if beyond is not None:
        which = f"“{beyond.name}”" if beyond.name else "A post"
        raise Refusal(f"{which} lies beyond the end of the way.", "posts")
    with household.deciding("Way kept", seen_revision) as session:
        number = write_way(session, way_id, name=name, km=km, country_km=country_km, limit_kmh=limit_kmh, posts=posts)
    return number, session.number


def keep_curve(household: Household, car_id: int, points: Sequence[tuple[float, float]], seen_revision: int | None) -> int:
    """Keep a car's own curve of fast charging (none: the usual one); returns the undo number. Raises: OutOfRange, Stale."""
    curve = own_points(points) if points else ()
    with household.deciding("The car’s curve kept", seen_revision) as session:
        write_curve(session, car_id, curve)
    return session.number


def note_stop(
    household: Household, car_id: int, now: datetime, *, soc_from: float, soc_to: float, minutes: float, kw: float, place: str,
    seen_revision: int | None,
) -> int:  # fmt: skip
    """Note what a stop gave, as a charge on the way in the log that has just ended; returns the undo number. Raises: Refusal, Stale."""
    if soc_to <= soc_from:
        raise Refusal("It left with no more than it came with: check the two levels.", "soc_to")
    require(minutes, 1, 600, "The stop", "min", "minutes")
    with household.deciding("Stop noted", seen_revision) as session:
        usable_kwh = household.as_decided(session).home.car(car_id).car.pack.usable_kwh
        stop = Stop(soc_from=soc_from, soc_to=soc_to, minutes=minutes, kw=kw, out_c=None, ended_at=now)
        note_stop_on_the_way(
            session, car_id, stop, site="fast" if kw > SLOW_KW else "elsewhere", place=place, usable_kwh=usable_kwh
        )
    return session.number


def taught(snapshot: Snapshot, owned: OwnedCar) -> tuple[float | None, int]:
    """What the log's fast charges say of the car's curve (its share, None: too few), and how many there were."""
    air = climate_of(snapshot, owned.place)

    def read() -> tuple[float | None, int]:
        count, latest = fast_charges(snapshot.log, owned.id, LATEST)
        told = [
            (
                each.soc_from,
                each.soc_to,
                each.minutes,
                each.kw,
                air.temperature_c(each.begun_at) if each.out_c is None else each.out_c,
            )
            for each in latest
        ]
        if not told:
            return None, count
        soc_from, soc_to, minutes, post_kw, air_c = np.array(told, dtype=float).T
        return learnt_share(owned.car, soc_from, soc_to, minutes=minutes, post_kw=post_kw, air_c=air_c), count

    return derived(snapshot, ("fast charges", owned.id, owned.car, air), read, ("charge",))
