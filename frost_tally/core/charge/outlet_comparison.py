"""Supplies side by side on the same need: what each gives, what holds it, whether it is enough, whether it pays.

Why: docs/decisions/0012.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache, partial
from math import inf

from ..basis import Basis, figure
from ..car import Car
from ..errors import OutOfRange, Refusal
from ..heat.warm import WarmUpChoice
from ..units import S_PER_H
from .control import Control, How
from .night_clock import HeldHours
from .plan import LINKED, NEVER_HELD
from .prices import PriceCells
from .session import Session, fill_up, simulate
from .supply import ChargeRate, Supply, charge_rate
from .year import Nights, YearPlan, charger, plan_year

MOST_OFFERS = 4
MILD_C = figure("bench.mild", 20.0, "°C", Basis.COMMON_PRACTICE, "a day that takes nothing extra")
COLD_C = figure("bench.cold", -10.0, "°C", Basis.COMMON_PRACTICE, "an ordinary frosty day")
ELSEWHERE = figure("bench.elsewhere", 2.0, "", Basis.COMMON_PRACTICE, "a charge on the road against the dearest hour at home")
LONGEST_PAYBACK_YEARS = figure("bench.longest_payback", 100.0, "years", Basis.COMMON_PRACTICE, "no outlet lasts longer")


@dataclass(frozen=True)
class Offer:
    """A supply, what it costs to have it installed (0: it is there, None: nobody knows), and when the house leaves it less."""

    supply: Supply
    install_cost: float | None = 0.0
    held: HeldHours = NEVER_HELD

    @property
    def to_have(self) -> float:
        """What it costs to have, for the order of offers: one whose cost nobody knows comes last."""
        return inf if self.install_cost is None else self.install_cost


@dataclass(frozen=True, kw_only=True)
class Need:
    """What all offers are asked for.

    `limit_soc`, `floor_soc` 0 to 1; pack energy (kWh) of the same day when mild and at −10 °C and the temperatures of the
    pack when the cable goes in; `now_kwh_per_km` at present; `cheap_h`: hours of the night at its lowest price; `window_h`:
    hours plugged in.
    """

    day_km: float
    mild_kwh: float
    cold_kwh: float
    cold_pack_c: float
    now_kwh_per_km: float
    now_c: float
    now_pack_c: float
    limit_soc: float
    floor_soc: float
    cheap_h: float
    window_h: float


@dataclass(frozen=True, kw_only=True)
class OnBench:
    """One offer's results; `refusal` instead of all others when nothing can charge from it.

    Hours; km; kWh and money a year, with what had to be charged elsewhere at twice the dearest hour.
    `tenths_min`: minutes for each tenth of the level from empty to full.
    `by_control`: the year's cost by how its nights are carried out; `year` and `year_cost` are by the car's own.
    `covers_*_km`: the longest day whose energy the cheap hours bring back.
    """

    offer: Offer
    refusal: str = ""
    rate: ChargeRate | None = None
    session: Session | None = None
    fill_h: float = 0.0
    full_h: float = 0.0
    tenths_min: tuple[float, ...] = ()
    km_per_hour: float = 0.0
    mild_km_per_hour: float = 0.0
    stop_kwh: float = 0.0
    stop_km: float = 0.0
    mild_h: float = 0.0
    cold_h: float = 0.0
    covers_mild_km: float = 0.0
    covers_cold_km: float = 0.0
    year: YearPlan | None = None
    year_cost: float = 0.0
    by_control: Mapping[How, float] = field(default_factory=dict)
    year_lost_kwh: float = 0.0
    saving: float = 0.0
    payback_years: float | None = None


class Reason(StrEnum):
    """Why an offer was named."""

    CHEAP_HOURS = "cheap_hours"
    WINDOW = "window"
    STRONGEST = "strongest"
    NOTHING = "nothing"


@dataclass(frozen=True)
class OutletComparison:
    """All entries in the order given, the one named (None when none can charge) and why."""

    entries: tuple[OnBench, ...]
    named: int | None
    reason: Reason


Plans = Mapping[How, YearPlan]
"""A year's nights by how they are started."""


def outlet_comparison(
    offers: Sequence[Offer],
    car: Car,
    need: Need,
    *,
    nights: Nights,
    prices: PriceCells,
    choice: WarmUpChoice = WarmUpChoice.CABIN,
    control: Control = LINKED,
    years: Sequence[Plans] | None = None,
) -> OutletComparison:
    """Compare up to four offers for a car. The year is planned night by night at least cost on each.

    Named is the one that costs least to have among those that cover the day at −10 °C within the cheap hours; else within
    the night; else the strongest. Pay-back is against the offer that costs least to have. `years` are the offers' years where they were
    planned already (`planned_years`): they ask for nothing of tonight.
    Raises: Refusal for none or more than four offers.
    """
    if not 1 <= len(offers) <= MOST_OFFERS:
        raise Refusal(f"One to {MOST_OFFERS} outlets fit on the bench.", "outlets")
    years = years or [
        planned_years(each, car, need.limit_soc, nights=nights, prices=prices, choice=choice, control=control) for each in offers
    ]
    entries = [
        _entry(each, car, need, years=of_it, nights=nights, prices=prices, control=control)
        for each, of_it in zip(offers, years, strict=True)
    ]
    able = [i for i, entry in enumerate(entries) if entry.rate is not None and entry.rate.pack_kw > 0]
    if not able:
        return OutletComparison(tuple(entries), None, Reason.NOTHING)
    base = entries[_least(able, entries)]
    named, reason = _named(able, entries, need)
    return OutletComparison(tuple(_paid(entry, base) for entry in entries), named, reason)


def _least(of: Sequence[int], entries: Sequence[OnBench]) -> int:
    """The one that costs least to have, then in a year."""
    return min(of, key=lambda i: (entries[i].offer.to_have, entries[i].year_cost))


def _named(able: Sequence[int], entries: Sequence[OnBench], need: Need) -> tuple[int, Reason]:
    """The outlet that is named, and why."""
    for reason, hours in ((Reason.CHEAP_HOURS, need.cheap_h), (Reason.WINDOW, need.window_h)):
        if fit := [i for i in able if entries[i].cold_h <= hours]:
            return _least(fit, entries), reason
    return min(able, key=lambda i: entries[i].cold_h), Reason.STRONGEST


def _paid(entry: OnBench, base: OnBench) -> OnBench:
    """With the yearly saving against the base and the years in which the extra cost comes back."""
    if entry.rate is None:
        return entry
    saving, extra = base.year_cost - entry.year_cost, entry.offer.to_have - base.offer.to_have
    back = 0 < extra < inf and saving * LONGEST_PAYBACK_YEARS > extra
    return replace(entry, saving=saving, payback_years=extra / saving if back else None)


def planned_years(
    offer: Offer,
    car: Car,
    limit_soc: float,
    *,
    nights: Nights,
    prices: PriceCells,
    choice: WarmUpChoice,
    control: Control,
    pack_price: float = 0.0,
) -> Plans:
    """A car's nights of a year on an outlet up to a limit (0 to 1), by how they are started; none where it cannot charge there.

    `pack_price` is that of a new pack per kWh, by which wear counts in what is chosen (0: it does not).
    """
    try:
        rate = _rate(offer, car)
    except OutOfRange:
        return {}
    hung = charger(car, rate, limit_soc, choice, held=offer.held, pack_price=pack_price)
    return {how: plan_year(replace(hung, control=replace(control, how=how)), nights, prices) for how in How}


def _rate(offer: Offer, car: Car) -> ChargeRate:
    rate = charge_rate(offer.supply, car)
    if rate.pack_kw <= 0:
        raise OutOfRange(f"{rate.wall_kw:.1f} kW at the wall are less than what the car itself uses while it charges.")
    return rate


def _entry(offer: Offer, car: Car, need: Need, *, years: Plans, nights: Nights, prices: PriceCells, control: Control) -> OnBench:
    try:
        rate = _rate(offer, car)
    except OutOfRange as refusal:
        return OnBench(offer=offer, refusal=refusal.message)
    fill = fill_up(car, rate, need.floor_soc, need.limit_soc, need.now_pack_c, air_c=need.now_c)
    hour = [(0.0, S_PER_H)]
    stop = simulate(car, rate, 0.5, 1.0, need.now_pack_c, hour, S_PER_H, lambda _: need.now_c)
    full = fill_up(car, rate, 0.0, 1.0, need.now_pack_c, air_c=need.now_c)
    mild_h = _hours(car, rate, need, kwh=need.mild_kwh, pack_c=MILD_C, air_c=MILD_C)
    cold_h = _hours(car, rate, need, kwh=need.cold_kwh, pack_c=need.cold_pack_c, air_c=COLD_C)
    gained_kwh = partial(_gained_kwh, car, rate, need.limit_soc, cheap_h=need.cheap_h)
    year = years[control.how]
    elsewhere = ELSEWHERE * float(prices.price_per_kwh.max())
    per_year = 365.0 / max(1, len(nights.use_kwh))
    costs = {how: float(each.cost.sum() + each.short_kwh.sum() * elsewhere) * per_year for how, each in years.items()}
    return OnBench(
        offer=offer,
        refusal="",
        rate=rate,
        session=fill,
        fill_h=fill.hours_to_limit,
        full_h=full.hours_to_limit,
        tenths_min=full.tenths_min,
        km_per_hour=rate.pack_kw / need.now_kwh_per_km,
        mild_km_per_hour=rate.pack_kw * need.day_km / need.mild_kwh,
        stop_kwh=stop.pack_kwh,
        stop_km=stop.pack_kwh / need.now_kwh_per_km,
        mild_h=mild_h,
        cold_h=cold_h,
        covers_mild_km=gained_kwh(pack_c=MILD_C, air_c=MILD_C) / need.mild_kwh * need.day_km,
        covers_cold_km=gained_kwh(pack_c=need.cold_pack_c, air_c=COLD_C) / need.cold_kwh * need.day_km,
        year=year,
        year_cost=costs[control.how],
        by_control=costs,
        year_lost_kwh=float(year.lost_kwh.sum()) * per_year,
    )


def _hours(car: Car, rate: ChargeRate, need: Need, *, kwh: float, pack_c: float, air_c: float) -> float:
    """Hours to bring back a day's energy up to the limit."""
    start = max(0.0, need.limit_soc - kwh / car.pack.usable_kwh)
    hours = fill_up(car, rate, start, need.limit_soc, pack_c, air_c=air_c).hours_to_limit
    return hours if kwh <= need.limit_soc * car.pack.usable_kwh else float("inf")


@lru_cache(maxsize=32)
def _gained_kwh(car: Car, rate: ChargeRate, limit_soc: float, *, cheap_h: float, pack_c: float, air_c: float) -> float:
    """What reaches the pack in the cheap hours, from a level that they do not fill; tonight's air is not asked."""
    cheap_s = max(cheap_h, 1e-3) * S_PER_H
    return simulate(car, rate, 0.0, limit_soc, pack_c, [(0.0, cheap_s)], cheap_s, lambda _: air_c).pack_kwh
