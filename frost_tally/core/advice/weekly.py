"""An owner without a socket: a year of weeks at a fast post beside a socket at home; money, hours and wear."""

from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..battery.ageing import wear_cost
from ..car import Car
from ..charge.fast import stops
from ..charge.year import YearPlan
from ..errors import require
from ..units import Array
from .long_way import STOP_MIN

WEEKLY_TO = figure("weekly.to", 0.90, "", Basis.COMMON_PRACTICE, "how full a week’s charge at a fast post goes")
ARRIVES_WARMER_K = figure(
    "weekly.driven_warm", 10.0, "K", Basis.COMMON_PRACTICE, "a pack that was driven to the post, above the air"
)
NIGHTS_A_WEEK, WEEKS = 7, 52


@dataclass(frozen=True, kw_only=True)
class Weekly:
    """A year: visits to the post, minutes of one in the coldest and in the mildest week (with what a stop costs besides), hours standing,
    energy (kWh) and money at the post; money at home; wear of both (money); weeks in which one visit was not enough. Without a socket
    there is nothing at home (None).
    """

    visits: int
    coldest_min: float
    mildest_min: float
    hours: float
    kwh: float
    post_cost: float
    home_cost: float | None
    post_wear: float
    home_wear: float | None
    busy_weeks: int


@dataclass(frozen=True, kw_only=True)
class AtHome:
    """A socket beside the post: its year of nights, and what it brings into the pack, kW."""

    plan: YearPlan
    kw: float


def weekly(
    car: Car,
    use_kwh: Array,
    air_c: Array,
    *,
    home: AtHome | None,
    limit_soc: float,
    post_kw: float,
    price_per_kwh: float,
    pack_per_kwh: float,
    reserve_soc: float,
    before: int = 0,
) -> Weekly:
    """Charge as often as the weeks of a year need it, to `WEEKLY_TO`, at a post of some kW and price, beside the year's nights at home.

    Args: `use_kwh` and `air_c` by day, shape (days,); `home` None without a socket; levels 0 to 1; money in one currency.
    Raises: OutOfRange for a post that is none.
    """
    require(post_kw, 20, 500, "The post", "kW", "post_kw")
    usable = car.pack.usable_kwh
    weeks = max(1, len(use_kwh) // NIGHTS_A_WEEK)
    used = use_kwh[: weeks * NIGHTS_A_WEEK].reshape(weeks, -1).sum(axis=1) / usable
    air = air_c[: weeks * NIGHTS_A_WEEK].reshape(weeks, -1).mean(axis=1)
    room = WEEKLY_TO - reserve_soc
    visits = np.maximum(1, np.ceil(used / room - 1e-9)).astype(np.int64)
    begin = WEEKLY_TO - used / visits
    pack_c = np.minimum(25.0, air + ARRIVES_WARMER_K)
    done_before = before + np.concatenate([[0], np.cumsum(visits)[:-1]])
    stood = [_stop(car, begin[i], pack_c[i], post_kw, air[i], before=int(done_before[i])) for i in range(weeks)]
    minutes, kwh = np.array(stood).T
    rates = (WEEKLY_TO - begin) / np.maximum(minutes / 60.0, 1e-6)
    days, level = np.full(weeks, float(NIGHTS_A_WEEK)), WEEKLY_TO - used / visits / 2
    put_in = used * usable
    moved = {"drawn_kwh": put_in, "charged_kwh": put_in, "held_days": days, "held_c": air}
    warm_c, home_soc = np.minimum(25.0, pack_c + 10.0), np.maximum(0.0, limit_soc - used / NIGHTS_A_WEEK / 2)
    pack = (car.pack.chemistry, usable, pack_per_kwh)
    fast = wear_cost(*pack, **moved, charge_c=warm_c, c_rate=rates, held_soc=level)
    slow = None
    if home is not None:
        slow = wear_cost(*pack, **moved, charge_c=np.maximum(0.0, air), c_rate=home.kw / usable, held_soc=home_soc)
    whole = WEEKS / weeks
    stops_min = minutes + STOP_MIN
    return Weekly(
        visits=round(float(visits.sum()) * whole),
        coldest_min=float(stops_min[int(np.argmin(air))]),
        mildest_min=float(stops_min[int(np.argmax(air))]),
        hours=float((visits * stops_min).sum()) / 60.0 * whole,
        kwh=float((visits * kwh).sum()) * whole,
        post_cost=float((visits * kwh).sum()) * price_per_kwh * whole,
        home_cost=None if home is None else float(home.plan.cost.sum()) * 365.0 / max(1, len(home.plan.cost)),
        post_wear=float(fast.sum()) * whole,
        home_wear=None if slow is None else float(slow.sum()) * whole,
        busy_weeks=int(np.count_nonzero(visits > 1)),
    )


def _stop(car: Car, soc: float, pack_c: float, post_kw: float, air_c: float, *, before: int) -> tuple[float, float]:
    """Minutes at a post to `WEEKLY_TO` (to the longest stand where it does not get there), and what the post gives by then, kWh."""
    done = stops(car, np.array([soc]), np.array([pack_c]), post_kw, float(air_c), before=before)
    took = done.minutes_to(WEEKLY_TO)
    took = np.where(np.isfinite(took), took, done.longest_min)
    return float(took[0]), float(done.at(took, done.post_kwh)[0])
