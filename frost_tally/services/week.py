"""The week: on which of the coming seven nights the cable goes in, each of them planned in full."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from ..core.advice.limit import Charges, full_night
from ..core.battery.ageing import PER_EURO
from ..core.charge.night import NightPlan, NightRequest, plan
from ..core.charge.plug_week import PLUG_WORTH, WeekAsk, WeekPlan, plan_week
from ..core.charge.prices import SERIES_BAND, PriceSlot
from ..core.heat.warm import WarmUpChoice
from ..household.facts import full_at
from ..household.home import Home
from .clock import minute_of
from .coming import NIGHTS, ComingNights, coming_nights
from .evening import Setting, evening, setting_of
from .remembered import once

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
class Week:
    """The week of a car, and the same with the cable in on every night, the level that is left counted (money)."""

    car_id: int
    car_name: str
    cars: tuple[tuple[int, str], ...]
    zone: ZoneInfo
    limit: float
    as_needed: bool
    feed: bool
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


def week(home: Home, now: datetime, car_id: int | None = None) -> Week:
    """The coming week of a car (the first when None). Raises: NotSetUp."""

    def work() -> Week:
        with home.reading() as session:
            setting = setting_of(session, now, car_id)
            ahead = coming_nights(session, setting.row, setting.now)
            return _week(session, setting, ahead)

    return once(home, ("week", minute_of(now), car_id), work)


def _week(session: Session, setting: Setting, ahead: ComingNights) -> Week:
    row, full = setting.row, full_at(session, setting.row, setting.now)
    requests = [_request(setting, ahead, i) for i in range(NIGHTS)]
    charged = [replace(each, soc=CHARGED, target_soc=CHARGED, morning_kwh=None, pack_price=0.0) for each in requests]
    plugged = [plan(each) for each in charged]
    unplugged = [  # a car that stays loses the same with the cable or without
        plan(replace(each, plug_in=each.departure)) if km > 0 else here
        for each, here, km in zip(charged, plugged, ahead.km.tolist(), strict=True)
    ]
    since = None if full is None else (setting.now - full).total_seconds() / 86_400.0
    ask = WeekAsk(
        soc=setting.usual.soc_now,
        limit=row.habit.limit,
        reserve=row.habit.reserve,
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
        as_needed=Charges(row.habit.charges) is Charges.AS_NEEDED,
        full_on=None if since is None else full_night(since, ahead.km.tolist()),
        plug_worth=PLUG_WORTH * PER_EURO.get(setting.house.currency, 1.0),
    )
    made = plan_week(ask)
    return Week(
        car_id=row.id,
        car_name=row.name,
        cars=setting.names,
        zone=setting.zone,
        limit=row.habit.limit,
        as_needed=ask.as_needed,
        feed=bool(row.habit.tariff and row.habit.tariff.feed),
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
                listed=tuple(each.row.name for each in ahead.due[i]),
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


def _request(setting: Setting, ahead: ComingNights, i: int) -> NightRequest:
    """What is asked of a night of the week, as in Tonight; nobody warms a car that stays."""
    of_night = setting if i == 0 else replace(setting, now=ahead.plugs[i], started=None)
    levers = replace(setting.usual if i == 0 else of_night.habits, depart=ahead.leaves[i].time())
    if ahead.km[i] <= 0:
        levers = replace(levers, warm_up=WarmUpChoice.NOTHING)
    return evening(replace(of_night, tariff=ahead.tariff), levers, ahead.leaves[i]).request
