"""Everyday limits side by side: what each keeps of the pack over the years, and which days it would not have covered.

Every night that it has the cable the car is charged to the limit, late (full at departure) or early (at once); a day that asks for more
than there is above the reserve is charged for on the way. Standing and cycling wear by `battery.ageing`.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Flags
from .ageing import WORN_AT, Exposure, Stretch, exposure, losses
from .cold import Chemistry
from .trend import Z90

LIMITS = (0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
WEEK, FULL = 7, 1.0
STOP_MIN = figure("schools.stop", 25.0, "min", Basis.COMMON_PRACTICE, "a stop to charge on the way, with the way to the post")
WAY_PRICE = figure("schools.way_price", 0.60, "EUR/kWh", Basis.FROM_MEMORY, "a fast charge on the way, where none was logged yet")
STOP_WORTH = figure(
    "schools.stop_worth", 5.0, "EUR", Basis.COMMON_PRACTICE, "our judgement: what nobody would take for such a stop"
)


@dataclass(frozen=True, eq=False, kw_only=True)
class OwnYear:
    """A year of days; arrays of shape (days,): energy of each day (kWh at 25 °C), the pack's temperature standing at home (°C).

    `away_h` is how long it is out on a day that it drives; `pack_kw` what goes into the pack; `reserve` the level kept at arrival;
    `plugged` says whether it has the cable on the night before each day (None: on every one).
    """

    use_kwh: Array
    stand_c: Array
    away_h: float
    pack_kw: float
    reserve: float = 0.1
    plugged: Flags | None = None

    def leaves_soc(self, target_soc: Array, usable_kwh: Array | float) -> tuple[Array, Array]:
        """The levels that each day begins and ends with (0 to 1) when it is charged to a target before it, from some usable kWh; what
        is missing to the reserve comes in on the way. Arrays of shape (…, days), `usable_kwh` of (…, 1).
        """
        use = self.use_kwh / usable_kwh
        leaves, came = np.broadcast_arrays(target_soc, use)[0].copy(), np.empty(np.broadcast_shapes(target_soc.shape, use.shape))
        for day, plugged in enumerate([True] * use.shape[-1] if self.plugged is None else self.plugged.tolist()):
            if not plugged:
                leaves[..., day] = came[..., day - 1] if day else leaves[..., day]
            came[..., day] = np.maximum(leaves[..., day] - use[..., day], np.minimum(leaves[..., day], self.reserve))
        return leaves, came


@dataclass(frozen=True, eq=False, kw_only=True)
class LivedLimits:
    """What each limit comes to, arrays of shape (limits,) unless said otherwise.

    `lost`: what the years take (share of new, unscaled), shape (limits, years); `short_days` a year that the limit would not have
    covered, `short_kwh` a year charged on the way; `full_h` hours a day standing at the limit (within 2 %); `yearly` a year's exposure.
    """

    limits: tuple[float, ...]
    lost: Array
    short_days: Array
    short_kwh: Array
    full_h: Array
    yearly: Exposure


def side_by_side(
    chemistry: Chemistry,
    usable_kwh_new: float,
    year: OwnYear,
    *,
    limits: Sequence[float] = LIMITS,
    health: float = 1.0,
    scale: float = 1.0,
    before: Exposure | None = None,
    years: int = 8,
    late: bool = True,
    weekly_full: bool = False,
) -> LivedLimits:
    """Live the same year again and again at each limit.

    Args: `health` today and `scale` the owner's own on the model, for the days not covered as the pack fades; `before` what the pack was
    exposed to until now (one stretch; none: new); `weekly_full` charges to 100 % every seventh night whatever the limit.
    """
    limit = np.asarray(limits, dtype=float)[:, None]
    target = np.broadcast_to(limit, (len(limits), len(year.use_kwh)))
    if weekly_full:
        target = np.where(np.arange(len(year.use_kwh)) % WEEK == WEEK - 1, FULL, target)
    yearly, full_h = _year(chemistry, usable_kwh_new * health, year, target, late)
    old = before or Exposure(*(np.zeros(1) for _ in range(3)))
    start = Exposure(*(np.broadcast_to(each, (len(limits), 1)) for each in vars(old).values()))
    total = losses(chemistry, start.then(yearly, years)).total
    lost = total[:, 1:] - total[:, :1]
    fading = np.maximum(
        0.3, health - scale * np.concatenate([np.zeros((len(limits), 1)), lost[:, :-1]], axis=1) - scale * lost[:, :1] / 2
    )
    usable_kwh = usable_kwh_new * fading[:, :, None]
    leaves, _ = year.leaves_soc(np.broadcast_to(target[:, None, :], (*fading.shape, target.shape[1])), usable_kwh)
    missing = np.maximum(year.use_kwh / usable_kwh + year.reserve - leaves, 0.0) * usable_kwh
    return LivedLimits(
        limits=tuple(limits),
        lost=lost,
        short_days=np.count_nonzero(missing > 1e-9, axis=2).mean(axis=1) * 365.25 / len(year.use_kwh),
        short_kwh=missing.sum(axis=2).mean(axis=1) * 365.25 / len(year.use_kwh),
        full_h=full_h,
        yearly=yearly,
    )


def _year(chemistry: Chemistry, usable_kwh: float, year: OwnYear, target: Array, late: bool) -> tuple[Exposure, Array]:
    """What a year exposes a pack to at each target, and the hours a day at it: home low, charging, at the target, out."""
    drives = year.use_kwh > 1e-9
    leaves, came = year.leaves_soc(target, usable_kwh)
    following = np.roll(leaves, -1, axis=1)
    added = np.maximum(following - came, 0.0)
    home_h = np.where(drives, 24.0 - year.away_h, 24.0)
    charging = np.minimum(added * usable_kwh / year.pack_kw, home_h)
    rest = home_h - charging
    mean = (came + following) / 2
    rounds = (
        (charging, mean, added, mean),
        (rest, came if late else following, 0.0 * rest, mean),
        (24.0 - home_h + 0.0 * rest, (leaves + came) / 2, 0.0 * rest, mean),
    )
    c_rate = year.pack_kw / usable_kwh
    found = []
    for hours, level, cycles, middle in rounds:
        found.append(
            exposure(
                chemistry,
                Stretch(
                    days=hours / 24.0,
                    temp_c=year.stand_c,
                    soc=level,
                    full_cycles=cycles,
                    dod=np.clip(added, 0.0, 1.0),
                    mean_soc=middle,
                    c_rate=c_rate,
                    charge_c=year.stand_c,
                ),
            )
        )
    whole = Exposure(
        *(np.concatenate([getattr(each, name) for each in found], axis=1) for name in ("calendar", "cycling", "cold"))
    )
    at_it = (rest * ((came if late else following) >= following - 0.02)).mean(axis=1)
    return whole.grouped(np.array([0])), at_it


def kept_money(lost: Array, against: float, usable_kwh_new: float, pack_per_kwh: float) -> Array:
    """What losing less than `against` is worth, in the money of the pack's price; a pack is paid for by the share it has to lose."""
    return np.asarray((against - lost) * usable_kwh_new * pack_per_kwh / WORN_AT)


@dataclass(frozen=True, eq=False, kw_only=True)
class LimitPolicy:
    """One limit: what is left of new after the years (likely, band), points kept against the dearest limit (likely, band), money, days a
    year not covered and kWh of them, hours a day at the limit, kWh of braking lost a year.
    """

    limit: float
    left: tuple[float, float, float]
    kept: tuple[float, float, float]
    money: float
    short_days: float
    short_kwh: float
    way_money: float
    full_h: float
    regen_kwh: float

    @property
    def net(self) -> float:
        """Money kept less what the way costs, over all years."""
        return self.money - self.way_money


@dataclass(frozen=True, kw_only=True)
class Prices:
    """What a limit is judged by, in one money: a new pack per kWh, a kWh on the way above one at home, and a stop on the way."""

    pack_per_kwh: float
    way_above_home: float
    stop: float


def judged(
    lived: LivedLimits,
    scale: tuple[float, float],
    health: float,
    usable_kwh_new: float,
    years: int,
    prices: Prices,
    regen_kwh: Array,
) -> tuple[LimitPolicy, ...]:
    """Each limit on the owner's own scale (value and sigma), with the band of that scale, and what it is worth.

    Args: `health` today (0 to 1); `regen_kwh` braking lost a year at each limit, shape (limits,).
    """
    lost, (own, sigma) = lived.lost[:, -1], scale
    spread = [max(0.0, own + z * sigma) for z in (0.0, -Z90, Z90)]
    money = kept_money(own * lost, own * float(lost.max()), usable_kwh_new, prices.pack_per_kwh)
    found = []
    for i, limit in enumerate(lived.limits):
        takes, kept = float(lost[i]), float(lost.max() - lost[i])
        on_the_way = float(lived.short_kwh[i]) * years * prices.way_above_home + float(lived.short_days[i]) * years * prices.stop
        found.append(
            LimitPolicy(
                limit=limit,
                left=(health - spread[0] * takes, health - spread[2] * takes, health - spread[1] * takes),
                kept=(spread[0] * kept, spread[1] * kept, spread[2] * kept),
                money=float(money[i]),
                short_days=float(lived.short_days[i]),
                short_kwh=float(lived.short_kwh[i]),
                way_money=on_the_way,
                full_h=float(lived.full_h[i]),
                regen_kwh=float(regen_kwh[i]),
            )
        )
    return tuple(found)


def stored(chemistry: Chemistry, before: Exposure, temp_c: Array, soc: Array, days: float) -> Array:
    """Share of capacity that standing for some days takes from a pack with a life before it (one stretch), unscaled; one shape with the
    temperatures (°C) and levels (0 to 1).
    """
    start = Exposure(*(np.broadcast_to(each, (*np.shape(temp_c), 1)) for each in vars(before).values()))
    standing = exposure(
        chemistry, Stretch(days=np.full((*np.shape(temp_c), 1), days), temp_c=temp_c[..., None], soc=soc[..., None])
    )
    total = losses(chemistry, start.then(standing)).total
    return np.asarray(total[..., 1] - total[..., 0])
