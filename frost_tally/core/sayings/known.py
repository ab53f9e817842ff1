"""What the sayings ask: the home of one car and the results of the rooms, each as its room has it. A saying names those that it needs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from ..advice.another_car import YearOn
from ..advice.remedies import Remedy, Situation
from ..advice.weekly import Weekly
from ..battery.ageing import WORN_AT
from ..battery.cold import Chemistry
from ..battery.limit_policies import LimitPolicy
from ..car import Car
from ..charge.fast import LowAndWarm
from ..charge.outlet_comparison import OnBench
from ..charge.season_timer import SeasonTimer
from ..drive.habits import Habits
from ..drive.rating import Rated
from ..drive.tally import Tally
from ..home import OwnedCar
from ..units import Array, Flags
from .said import LITTLE, MINUTE, Logged, Said, Verdict, Yearly, about

DAYS, MOST_APART = 365.25, 7


@dataclass(frozen=True, eq=False, kw_only=True)
class Here:
    """The car (as the log knows it), its year of days: km, the air of the drives (°C), pack energy (kWh), each of shape (days,), from how
    many logged days (0: the usual day); what a kWh in the pack costs, a new pack per kWh, and how much money one euro is.
    """

    owned: OwnedCar
    car: Car
    km: Array
    air_c: Array
    use_kwh: Array
    logged: int
    price: float
    pack_price: float
    per_euro: float

    @property
    def a_year(self) -> float:
        """How many such stretches make a year."""
        return DAYS / max(1, len(self.km))

    @property
    def driven(self) -> Flags:
        """On which days it is driven."""
        return np.asarray(self.km > 0)

    @property
    def frosty(self) -> Flags:
        """On which of them in frost."""
        return np.asarray(self.driven & (self.air_c < 0))

    @property
    def nights_carried(self) -> int:
        """How many nights apart the cable does: between the habit's limit and floor the pack carries all but the longest days."""
        used, habit = self.use_kwh[self.driven], self.owned.habit
        day_kwh = float(np.quantile(used, 0.9)) if len(used) else np.inf
        return int(min(MOST_APART, max(1.0, (habit.limit - habit.floor) * self.car.pack.usable_kwh / max(1e-9, day_kwh))))

    @property
    def lfp(self) -> bool:
        """Whether its cells are iron phosphate."""
        return self.car.pack.chemistry is Chemistry.LFP

    @property
    def little(self) -> float:
        """Money a year under which something is not worth a thought."""
        return LITTLE * self.per_euro

    def weight(self, yearly: Sequence[Yearly]) -> float:
        """What a saying changes in a year, in money: health as what a new pack costs, minutes as they are worth."""
        worth = {
            "money": 1.0,
            "health": self.pack_price * self.car.pack.usable_kwh_new / WORN_AT,
            "minutes": MINUTE * self.per_euro,
        }
        return sum(abs(each.likely) * worth[each.of] for each in yearly)

    def judged(self, *yearly: Yearly) -> Verdict:
        """Whether something that helps is worth a thought."""
        return Verdict.HOLDS if self.weight(yearly) >= self.little else Verdict.LITTLE


@dataclass(frozen=True, eq=False, kw_only=True)
class Driving:
    """The day that the Day room shows: its situation, remedies and tally; what each change gives on it at other temperatures of the air
    (`airs_c`, shape (airs,)), of what the day then takes, kWh; what changes give in town and on the motorway (Wh/km); the driver's part.
    """

    situation: Situation
    remedies: Mapping[str, Remedy]
    tally: Tally | None
    airs_c: Array
    used_kwh: Array
    gains_kwh: Mapping[str, Array]
    town_wh: Mapping[str, float]
    motorway_wh: Mapping[str, float]
    habits: Habits
    rated: Rated
    range_km: float

    @property
    def km(self) -> float:
        """Of the day."""
        return self.situation.trip.distance_km

    def by_day(self, here: Here, key: str, once: bool = False) -> Array:
        """What a change gives on each day of the year, kWh, shape (days,): by its kilometres, or at most `once` a day."""
        share = here.km / self.km
        return np.interp(here.air_c, self.airs_c, self.gains_kwh[key]) * (np.minimum(share, 1.0) if once else share)

    def logged(self, here: Here, kwh: Array) -> Logged | None:
        """The same against the log; None without one."""
        if not here.logged:
            return None
        days, frosty = int(here.driven.sum()), int(here.frosty.sum())
        return Logged(days=days, frosty=frosty, kwh=float(kwh.sum()), frosty_kwh=float(kwh[here.frosty].sum()))

    def saving(
        self, here: Here, key: str, factor: int, *, room: str = "day", rests_on: tuple[str, ...], once: bool = False
    ) -> Said:
        """A change that is there on every day: what it spares in a year. `factor` is which of the car's factors its doubt hangs on."""
        kwh = self.by_day(here, key, once)
        money = about("money", float(kwh.sum()) * here.a_year * here.price, here.car.factors.sigma[factor])
        now = self.remedies.get(key)
        numbers = {
            "kwh": float(kwh.sum()) * here.a_year,
            "km": 0.0 if now is None else now.gain_km,
            "minutes": 0.0 if now is None else now.minutes,
        }
        return Said(
            verdict=here.judged(money), room=room, yearly=(money,), numbers=numbers, rests_on=rests_on,
            measured=here.car.factors.days > 0, logged=self.logged(here, kwh),
        )  # fmt: skip


BASE, HEAT, COLD = 0, 1, 2
"""The places of a car's factors."""


@dataclass(frozen=True, eq=False, kw_only=True)
class Limits:
    """The limit policies over some `years`: as the room has them by default, full at once instead of at departure, with (or without) the
    weekly full charge, and plugged in only on every so many nights (`apart`); points lost in storage (by level, by °C) over `weeks`.
    """

    years: int
    own: LimitPolicy
    best: LimitPolicy
    policies: tuple[LimitPolicy, ...]
    early: tuple[LimitPolicy, ...]
    other_weekly: tuple[LimitPolicy, ...]
    seldom: tuple[LimitPolicy, ...]
    apart: int
    stored: Array
    stored_soc: tuple[float, ...]
    stored_c: tuple[float, ...]
    weeks: float

    def at(self, limit: float, of: tuple[LimitPolicy, ...] = ()) -> LimitPolicy:
        """The policy of a limit (0 to 1)."""
        return min(of or self.policies, key=lambda each: abs(each.limit - limit))

    def lost(self, soc: float, temp_c: float) -> float:
        """Share of the pack that storage takes."""
        return float(self.stored[self.stored_soc.index(soc), self.stored_c.index(temp_c)])


@dataclass(frozen=True, kw_only=True)
class Tariffs:
    """What a year costs under each tariff, by name; `now` is the present one, `best` the cheapest."""

    totals: Mapping[str, float]
    now: str
    best: str


@dataclass(frozen=True, eq=False, kw_only=True)
class Outlets:
    """The outlets on the bench by name, and the car's own among them."""

    entries: Mapping[str, OnBench]
    own: str


@dataclass(frozen=True, kw_only=True)
class Timer:
    """A timer set once for so many nights, beside a start for each."""

    made: SeasonTimer
    nights: int


@dataclass(frozen=True, kw_only=True)
class Others:
    """The year on this car as it is, in other garages by kind, and with a smaller and a larger pack."""

    own: YearOn
    garages: Mapping[str, YearOn]
    smaller: YearOn
    larger: YearOn


@dataclass(frozen=True, kw_only=True)
class Week:
    """The coming nights: how many, on how many the cable is in, out or as one likes; what the other way would cost more on each of the last
    kind, and what is spared by leaving out those that are left out.
    """

    nights: int
    plugged: int
    either: int
    out: int
    other_costs: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class LongWay:
    """The long day: door to door (min) by number of stops in frost and in summer (None: not that way), by motorway speed; the same
    energy from a low warm and a half full cold pack; how many such days the year had.
    """

    km: float
    frost: tuple[float | None, ...]
    summer: tuple[float | None, ...]
    speeds: tuple[tuple[float, float | None, float | None], ...]
    low: LowAndWarm | None
    beyond_min: tuple[float, float]
    days: int


@dataclass(frozen=True, kw_only=True)
class Standing:
    """A day of standing at home: what each cause takes of the level (0 to 1) where it is on, and what standing takes by itself, by the log
    (`measured`) or as usual.
    """

    parts: Mapping[str, float]
    idle: float
    measured: bool


@dataclass(frozen=True, kw_only=True)
class Winter:
    """The day from which winter tyres are worth it (None: none), the coldest that is expected (°C), what the 12 V battery wants, and how
    many fast charges and kWh of them the log has; `drifts` why the display may have drifted ("": nothing says so).
    """

    tyres_on: date | None
    coldest_c: float
    twelve_volt: str
    small_age: float | None
    fast_kwh: float
    all_kwh: float
    drifts: str


@dataclass(frozen=True, kw_only=True)
class Post:
    """A year of weeks at a fast post."""

    made: Weekly


@dataclass(frozen=True, eq=False, kw_only=True)
class Starts:
    """The year's nights as they are planned, and each begun when the cable goes in: money, wear, and what the days lack (kWh)."""

    planned: tuple[float, float, float]
    at_once: tuple[float, float, float]


@dataclass(frozen=True, kw_only=True)
class Warming:
    """The verdict over a warm-up tomorrow: km one way from which a warm pack pays and up to which warm seats do (None: nowhere), the
    day's own km one way; of each choice, by its key, what it costs in money, brings in km and costs in all, comfort counted; and the best.
    """

    pack_from_km: float | None
    seats_to_km: float | None
    km: float
    air_c: float
    options: Mapping[str, tuple[float, float, float]]
    best: str


@dataclass(frozen=True, kw_only=True)
class Hours:
    """The coming night's charge in its latest and in its coolest equal hours: money and wear of each; the night's coldest air (°C)."""

    late: tuple[float, float]
    cool: tuple[float, float]
    air_c: float
