"""Everyday limits side by side: what each keeps of the pack over the years, and which days it would not have covered.

Every night that it has the cable the car is charged to the limit, or as far above it as the days until the next such night need, late
(full at departure) or early (at once). Only what even 100 % does not cover is charged for on the way. What standing and cycling wear at
the owner's own limit is `battery.ageing`'s; how much another limit changes that, all cells of the chemistry say (`battery.cells`).
Why: docs/decisions/0066.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Flags
from .ageing import WORN_AT, Exposure, Stretch, exposure, losses
from .cells import cells_of
from .cold import Chemistry
from .trend import DAYS_PER_YEAR, Z90

LIMITS = (0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
WEEK, FULL = 7, 1.0
STOP_MIN = figure("schools.stop", 25.0, "min", Basis.COMMON_PRACTICE, "a stop to charge on the way, with the way to the post")
WAY_PRICE = figure("schools.way_price", 0.60, "EUR/kWh", Basis.FROM_MEMORY, "a fast charge on the way, where none was logged yet")
STOP_WORTH = figure(
    "schools.stop_worth", 5.0, "EUR", Basis.COMMON_PRACTICE, "our judgement: what nobody would take for such a stop"
)
SPREAD = 0.9
"""The share of cells and scales that a band holds."""
EVEN = np.linspace(0.05, 0.95, 10)
NORMAL_EVEN = np.array([NormalDist().inv_cdf(share) for share in EVEN])
"""Where a scale is sampled, by its chance."""


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

    @property
    def nights(self) -> Flags:
        """Whether it has the cable on the night before each day."""
        return np.ones(len(self.use_kwh), dtype=bool) if self.plugged is None else self.plugged

    def needed_soc(self, usable_kwh: Array | float) -> Array:
        """The level (1 or more: not even a full pack) to leave with on each day, so that the days until the next night with the cable
        end above the reserve; `usable_kwh` of shape (…, 1), days last.
        """
        use = self.use_kwh / np.asarray(usable_kwh, dtype=float)
        needed, follows = use + self.reserve, np.roll(self.nights, -1)
        for day in reversed(np.flatnonzero(~follows[:-1]).tolist()):
            needed[..., day] = use[..., day] + needed[..., day + 1]
        return np.asarray(needed)

    def leaves_soc(self, target_soc: Array, usable_kwh: Array | float) -> tuple[Array, Array]:
        """The levels that each day begins and ends with (0 to 1) when it is charged to a target before it, from some usable kWh; what
        is missing to the reserve comes in on the way. Arrays of shape (…, days), `usable_kwh` of (…, 1).
        """
        use = self.use_kwh / usable_kwh
        leaves = np.broadcast_to(target_soc, np.broadcast_shapes(target_soc.shape, use.shape)).copy()
        came = np.maximum(leaves - use, np.minimum(leaves, self.reserve))
        for day in np.flatnonzero(~self.nights).tolist():
            leaves[..., day] = came[..., day - 1] if day else leaves[..., day]
            came[..., day] = np.maximum(leaves[..., day] - use[..., day], np.minimum(leaves[..., day], self.reserve))
        return leaves, came


@dataclass(frozen=True, eq=False, kw_only=True)
class LivedLimits:
    """What each limit comes to, arrays of shape (limits,) unless said otherwise.

    `lost`: what the years take by the one model (share of new, unscaled), shape (limits, years); `cells`: what all of them take of each
    cell, shape (cells, limits), after its `past` (exposures, (cells,) each); `raised` nights a year with a higher limit for the days
    ahead; `short_days` a year that even 100 % would not have covered, `short_kwh` a year charged on the way; `full_h` hours a day
    standing at the limit (within 2 %); `yearly` a year's exposure.
    """

    limits: tuple[float, ...]
    lost: Array
    cells: Array
    past: tuple[Array, Array]
    raised: Array
    short_days: Array
    short_kwh: Array
    full_h: Array
    yearly: Exposure

    def kept(self) -> Array:
        """Share of capacity that each limit keeps against the fullest, by cell, shape (cells, limits)."""
        return np.asarray(self.cells[:, [-1]] - self.cells)


def side_by_side(
    chemistry: Chemistry,
    usable_kwh_new: float,
    year: OwnYear,
    *,
    limits: Sequence[float] = LIMITS,
    health: float = 1.0,
    scale: float = 1.0,
    before: Exposure | None = None,
    age_days: float = 0.0,
    lived_at: float | None = None,
    years: int = 8,
    late: bool = True,
    weekly_full: bool = False,
) -> LivedLimits:
    """Live the same year again and again at each limit, in their order.

    Args: `health` today and `scale` the owner's own on the model, for the days not covered as the pack fades; `before` what the pack was
    exposed to until now (one stretch; none: new) in `age_days`, which the cells lived like this year at the limit `lived_at` (one of
    them; None: the first); `weekly_full` charges to 100 % every seventh night whatever the limit.
    """
    count, days = len(limits), len(year.use_kwh)
    limit = np.asarray(limits, dtype=float)
    weekly = (np.arange(days) % WEEK == WEEK - 1) & weekly_full

    def targets(usable_kwh: Array) -> tuple[Array, Flags]:
        """What it is charged to, and on which nights that is above the limit for the days ahead."""
        usual = np.where(weekly, FULL, limit.reshape(count, *(1,) * (usable_kwh.ndim - 1)))
        needed = np.minimum(year.needed_soc(usable_kwh), FULL)
        return np.maximum(usual, needed), (needed > usual + 1e-9) & year.nights

    today = np.full((count, 1), usable_kwh_new * health)
    days_of, full_h = _days(float(today[0, 0]), year, targets(today)[0], late)
    yearly = _in_one([exposure(chemistry, each) for each in days_of])
    old = before or Exposure(*(np.zeros(1) for _ in range(3)))
    start = Exposure(*(np.broadcast_to(each, (count, 1)) for each in vars(old).values()))
    total = losses(chemistry, start.then(yearly, years)).total
    lost = total[:, 1:] - total[:, :1]
    fading = np.maximum(
        0.3, health - scale * np.concatenate([np.zeros((count, 1)), lost[:, :-1]], axis=1) - scale * lost[:, :1] / 2
    )
    usable_kwh = (usable_kwh_new * fading)[..., None]
    by_year, raised = targets(usable_kwh)
    leaves, _ = year.leaves_soc(by_year, usable_kwh)
    missing = np.maximum(year.use_kwh / usable_kwh + year.reserve - leaves, 0.0) * usable_kwh
    a_year = DAYS_PER_YEAR / days
    turns = tuple(a_year * each for each in cells_of(chemistry).exposed(days_of))
    past = tuple(each[:, list(limits).index(lived_at or limits[0])] * age_days / DAYS_PER_YEAR for each in turns)
    return LivedLimits(
        limits=tuple(limits),
        lost=lost,
        cells=cells_of(chemistry).lost_since((past[0][:, None], past[1][:, None]), (years * turns[0], years * turns[1])),
        past=(past[0], past[1]),
        raised=np.count_nonzero(raised, axis=2).mean(axis=1) * a_year,
        short_days=np.count_nonzero(missing > 1e-9, axis=2).mean(axis=1) * a_year,
        short_kwh=missing.sum(axis=2).mean(axis=1) * a_year,
        full_h=full_h,
        yearly=yearly,
    )


def _in_one(lived: Sequence[Exposure]) -> Exposure:
    """Stretches one after the other as a single one."""
    rows = (np.concatenate([getattr(each, name) for each in lived], axis=1) for name in ("calendar", "cycling", "cold"))
    return Exposure(*rows).grouped(np.array([0]))


def _days(usable_kwh: float, year: OwnYear, target: Array, late: bool) -> tuple[list[Stretch], Array]:
    """What each day of a year is made of at each target, and the hours a day at it: charging, standing at home, out."""
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
    made = [
        Stretch(
            days=hours / 24.0,
            temp_c=year.stand_c,
            soc=level,
            full_cycles=cycles,
            dod=np.clip(added, 0.0, 1.0),
            mean_soc=middle,
            c_rate=c_rate,
            charge_c=year.stand_c,
        )
        for hours, level, cycles, middle in rounds
    ]
    return made, (rest * ((came if late else following) >= following - 0.02)).mean(axis=1)


def kept_money(lost: Array, against: float, usable_kwh_new: float, pack_per_kwh: float) -> Array:
    """What losing less than `against` is worth, in the money of the pack's price; a pack is paid for by the share it has to lose."""
    return np.asarray((against - lost) * usable_kwh_new * pack_per_kwh / WORN_AT)


@dataclass(frozen=True, eq=False, kw_only=True)
class LimitPolicy:
    """One limit: what is left of new after the years (likely, band), points kept against the fullest limit (likely, band over all cells),
    money, nights a year with a higher limit and what raising it is worth, days a year that even 100 % does not cover and kWh of them,
    hours a day at the limit, kWh of braking lost a year.
    """

    limit: float
    left: tuple[float, float, float]
    kept: tuple[float, float, float]
    money: float
    raised: float
    raise_money: float
    short_days: float
    short_kwh: float
    way_money: float
    full_h: float
    regen_kwh: float

    @property
    def net(self) -> float:
        """Money kept less what raising it and the way cost, over all years."""
        return self.money - self.raise_money - self.way_money


@dataclass(frozen=True, kw_only=True)
class Prices:
    """What a limit is judged by, in one money: a new pack per kWh, a kWh on the way above one at home, a stop on the way, and what it is
    worth not to set the limit for a night.
    """

    pack_per_kwh: float
    way_above_home: float
    stop: float
    raised: float = 0.0


def judged(
    lived: LivedLimits,
    scale: tuple[float, float],
    health: float,
    usable_kwh_new: float,
    years: int,
    *,
    prices: Prices,
    regen_kwh: Array,
    own: int,
) -> tuple[LimitPolicy, ...]:
    """Each limit on the owner's own scale (value and sigma), with the band of all cells and of that scale, and what it is worth.

    Args: `health` today (0 to 1); `regen_kwh` braking lost a year at each limit, shape (limits,); `own` which of them is the owner's:
    what is left there is the one model's, and the cells' median says what another limit makes of it.
    """
    by_cell = lived.kept()
    scales = np.maximum(0.0, scale[0] + scale[1] * NORMAL_EVEN)
    likely = scale[0] * np.median(by_cell, axis=0)
    low, high = _band(scales, by_cell)
    change_low, change_high = _band(scales, by_cell - by_cell[:, [own]])
    change = likely - likely[own]
    left = health - scale[0] * float(lived.lost[own, -1]) + change
    of_scale = Z90 * scale[1] * float(lived.lost[own, -1])
    money = kept_money(-likely, 0.0, usable_kwh_new, prices.pack_per_kwh)
    return tuple(
        LimitPolicy(
            limit=limit,
            left=(
                float(left[i]),
                float(left[i] - np.hypot(of_scale, change[i] - change_low[i])),
                float(left[i] + np.hypot(of_scale, change_high[i] - change[i])),
            ),
            kept=(float(likely[i]), float(low[i]), float(high[i])),
            money=float(money[i]),
            raised=float(lived.raised[i]),
            raise_money=float(lived.raised[i]) * years * prices.raised,
            short_days=float(lived.short_days[i]),
            short_kwh=float(lived.short_kwh[i]),
            way_money=years * (float(lived.short_kwh[i]) * prices.way_above_home + float(lived.short_days[i]) * prices.stop),
            full_h=float(lived.full_h[i]),
            regen_kwh=float(regen_kwh[i]),
        )
        for i, limit in enumerate(lived.limits)
    )


def _band(scales: Array, by_cell: Array) -> tuple[Array, Array]:
    """Where nine of ten cells lie, each on all scales: low and high, shape (limits,)."""
    all_of_them = (scales[:, None, None] * by_cell).reshape(-1, by_cell.shape[1])
    low, high = np.quantile(all_of_them, ((1 - SPREAD) / 2, (1 + SPREAD) / 2), axis=0)
    return low, high


def stored(chemistry: Chemistry, past: tuple[Array, Array], temp_c: Array, soc: Array, days: float) -> Array:
    """Share of capacity that standing for some days takes after a past (`LivedLimits.past`), unscaled, by the median of the cells; one
    shape with the temperatures (°C) and levels (0 to 1).
    """
    cells, shape = cells_of(chemistry), np.shape(temp_c)
    spans = np.full((*shape, 1), days)
    standing, cycling = cells.exposed(
        [Stretch(days=spans, temp_c=np.reshape(temp_c, (*shape, 1)), soc=np.reshape(soc, (*shape, 1)))]
    )
    before = tuple(each.reshape(-1, *(1,) * len(shape)) for each in past)
    return np.asarray(np.median(cells.lost_since((before[0], before[1]), (standing, 0.0 * cycling)), axis=0))
