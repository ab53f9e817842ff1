"""The week: on which of the coming seven nights the cable goes in, each of them planned in full."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

import numpy as np

from ..core.advice.limit import Charges, full_night
from ..core.charge.night import NightPlan, NightRequest, plan
from ..core.charge.plug_week import PLUG_WORTH, WeekAsk, WeekPlan, plan_week
from ..core.charge.prices import SERIES_BAND, PriceSlot
from ..core.heat.warm import WarmUpChoice
from ..core.home import OfCar, OwnedCar
from ..household.facts import full_at
from ..household.snapshot import Snapshot
from .coming import NIGHTS, ComingNights, coming_nights
from .derived import in_this_minute
from .evening import Now, evening, now_of

LEVEL_DIGITS = 3
"""Of the levels that the days leave: a tenth of a per cent, so that the nights that follow are the same a minute later."""
CHARGED = 0.9
"""The level from which standing and warm-up are counted."""


@dataclass(frozen=True, kw_only=True)
class WeekNight:
    """A night: its evening, plugging in and departure (local), km and the names of what is listed for the day after; the plan (None: the
    cable stays out) and the night's prices; the levels in the evening, at departure and back home (0 to 1, the last two likely), and what
    the day needs at departure on its cautious side with the reserve (0 for a day at home).
    """

    evening: date
    plug_in: datetime
    departure: datetime
    km: float
    listed: tuple[str, ...]
    plan: NightPlan | None
    prices: tuple[PriceSlot, ...]
    soc: float
    leaves_soc: float
    returns_soc: float
    needs_soc: float

    @property
    def dated(self) -> bool:
        """Whether all its prices are dated ones."""
        return all(slot.band == SERIES_BAND for slot in self.prices)

    @property
    def short_soc(self) -> float:
        """What is missing to the day's need, 0 or more."""
        return max(0.0, self.needs_soc - self.leaves_soc)


@dataclass(frozen=True, kw_only=True)
class Week(OfCar):
    """The week of a car, and the same with the cable in on every night, the level that is left counted (money)."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    nights: tuple[WeekNight, ...]
    every_costs_more: float

    @property
    def cost(self) -> float:
        """What the nights cost, money."""
        return sum(each.plan.cost for each in self.nights if each.plan is not None)

    @property
    def plugged(self) -> tuple[WeekNight, ...]:
        """The nights on which the cable goes in."""
        return tuple(each for each in self.nights if each.plan is not None)


def week(snapshot: Snapshot, car_id: int | None = None) -> Week:
    """The coming week of a car (the first when None). Raises: NotSetUp."""

    def work() -> Week:
        now = now_of(snapshot, car_id)
        return _week(snapshot, now, coming_nights(snapshot, now.owned))

    return in_this_minute(snapshot, ("week", car_id), work)


def _week(snapshot: Snapshot, now: Now, ahead: ComingNights) -> Week:
    habit, full = now.owned.habit, full_at(snapshot.log, now.owned, now.now)
    requests = [_request(now, ahead, i) for i in range(NIGHTS)]
    charged = [replace(each, soc=CHARGED, target_soc=CHARGED, morning_kwh=None, pack_price=0.0) for each in requests]
    plugged = [plan(each) for each in charged]
    unplugged = [  # a car that stays loses the same with the cable or without
        plan(replace(each, plug_in=each.departure)) if km > 0 else here
        for each, here, km in zip(charged, plugged, ahead.km.tolist(), strict=True)
    ]
    since = None if full is None else (now.now - full).total_seconds() / 86_400.0
    ask = WeekAsk(
        soc=now.defaults.soc_now,
        limit=habit.limit,
        reserve=habit.reserve,
        usable_kwh=ahead.car.pack.usable_kwh,
        wall_kw=ahead.rate.wall_kw,
        pack_kw=ahead.rate.pack_kw,
        likely_soc=ahead.use_soc,
        cautious_soc=ahead.cautious_soc,
        prices=ahead.prices,
        stay_lost_soc=np.array([CHARGED - each.soc_departure for each in unplugged]),
        plug_lost_soc=np.array([CHARGED - each.soc_departure for each in plugged]),
        warm_cost=np.array([each.warm_cost for each in plugged]),
        wear_per_kwh=ahead.wear_per_kwh,
        as_needed=habit.charges is Charges.AS_NEEDED,
        full_on=None if since is None else full_night(since, ahead.km.tolist()),
        plug_worth=PLUG_WORTH * now.per_euro,
    )
    made = plan_week(ask)
    return Week(
        owned=now.owned,
        cars=snapshot.home.names,
        nights=tuple(_nights(ahead, ask, made, requests)),
        every_costs_more=plan_week(ask, every=True).net - made.net,
    )


def _nights(ahead: ComingNights, ask: WeekAsk, made: WeekPlan, requests: Sequence[NightRequest]) -> list[WeekNight]:
    """The nights one after the other, each planned in full from the level that the day before leaves."""
    found: list[WeekNight] = []
    soc = ask.soc
    for i, target in enumerate(made.targets):
        night = None
        if target is not None:
            night = plan(replace(requests[i], soc=soc, target_soc=target))
        leaves = max(0.0, soc - float(ask.stay_lost_soc[i])) if night is None else night.soc_departure
        home = round(max(0.0, leaves - float(ask.likely_soc[i])), LEVEL_DIGITS)
        found.append(
            WeekNight(
                evening=ahead.evenings[i],
                plug_in=ahead.plugs[i],
                departure=ahead.leaves[i],
                km=float(ahead.km[i]),
                listed=tuple(each.listed.name for each in ahead.due[i]),
                plan=night,
                prices=tuple(ahead.tariff.prices(ahead.plugs[i], ahead.leaves[i])),
                soc=soc,
                leaves_soc=leaves,
                returns_soc=home,
                needs_soc=float(ask.needs_soc[i]),
            )
        )
        soc = home
    return found


def _request(now: Now, ahead: ComingNights, i: int) -> NightRequest:
    """What is asked of a night of the week, as in Tonight; nobody warms a car that stays."""
    of_night = (
        replace(now, tariff=ahead.tariff) if i == 0 else replace(now, tariff=ahead.tariff, now=ahead.plugs[i], started=None)
    )
    inputs = replace(now.defaults if i == 0 else of_night.habits, depart=ahead.leaves[i].time())
    if ahead.km[i] <= 0:
        inputs = replace(inputs, warm_up=WarmUpChoice.NOTHING)
    return evening(of_night, inputs, ahead.leaves[i]).request
