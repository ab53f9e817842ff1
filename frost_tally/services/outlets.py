"""The outlets bench: a home's outlets on the same need, under the car's tariff."""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from functools import lru_cache, partial

import numpy as np

from ..core.charge.outlet_comparison import (
    COLD_C,
    MILD_C,
    MOST_OFFERS,
    Need,
    Offer,
    OutletComparison,
    Plans,
    outlet_comparison,
    planned_years,
)
from ..core.charge.prices import PriceCells, night_hours
from ..core.charge.tariff import Tariff
from ..core.errors import Refusal, require
from ..core.home import NotSetUp, OfCar, OwnedCar, named
from ..core.parts import Outlet
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from .shared.car_year import READS, CarYear, car_year, first_evening
from .shared.climate import climate_of
from .shared.coming import ahead_of
from .shared.derived import LONG_S, NotYet, derived_later


@dataclass(frozen=True)
class BenchInputs:
    """What can be set: the day to cover (km), the limit (0 to 1), and the numbers of the outlets on the bench."""

    day_km: float
    limit: float
    outlet: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class OutletsBench(OfCar):
    """Everything the bench shows; `chosen` are the outlets in the order of the entries."""

    cars: tuple[tuple[int, str], ...]
    inputs: BenchInputs
    defaults: BenchInputs
    on_offer: tuple[tuple[int, str], ...]
    chosen: tuple[Outlet, ...]
    bench: OutletComparison
    need: Need
    year: CarYear

    @property
    def owned(self) -> OwnedCar:
        """The car."""
        return self.year.owned


def outlets_bench(
    snapshot: Snapshot,
    car_id: int | None = None,
    override: Callable[[BenchInputs], BenchInputs] = lambda defaults: defaults,
    wait_s: float = LONG_S,
) -> OutletsBench:
    """The bench for a car (the first when None) with the inputs that were set; as soon as it is worked out, within `wait_s`.

    Raises: NotSetUp without car, tariff or outlet; Refusal with its field for an input that cannot be; NotYet.
    """
    owned = snapshot.home.car(car_id)
    here = [each for each in snapshot.home.outlets if each.place_id in (None, owned.place.id)]
    if owned.contract is None or not snapshot.home.outlets:
        raise NotSetUp
    defaults = BenchInputs(owned.habit.trip.distance_km, owned.habit.limit, tuple(each.id for each in here[:MOST_OFFERS]))
    inputs = override(defaults)
    require(inputs.day_km, 1, 1500, "The day", "km", "day_km")
    require(100 * inputs.limit, 30, 100, "The limit", "%", "limit")
    chosen = tuple(each for each in here if each.id in inputs.outlet)
    if not chosen:
        raise Refusal("Choose at least one outlet.", "outlet")
    if len(chosen) > MOST_OFFERS:
        raise Refusal(f"{MOST_OFFERS} outlets fit on the bench: take some off.", "outlet")
    # the nights of a year ask for nothing of tonight: they are kept, and what the outlets give tonight is worked out beside them
    kept = _kept(snapshot, owned, chosen, inputs.limit, wait_s)
    air_c, pack_c = _air(snapshot, owned)
    moment = snapshot.minute.astimezone(owned.zone)
    need = _need(kept[0].year, inputs, kept[0].tariff, here=moment, air_c=air_c, pack_c=pack_c)
    return OutletsBench(
        cars=snapshot.home.names,
        inputs=inputs,
        defaults=defaults,
        on_offer=named(here),
        chosen=chosen,
        bench=_compared(kept, need),
        need=need,
        year=kept[0].year,
    )


@dataclass(frozen=True, eq=False, kw_only=True)
class _Years:
    """A car's year, the tariff that it is priced by, and its nights on an offer."""

    year: CarYear
    tariff: Tariff
    cells: PriceCells
    offer: Offer
    plans: Plans


def _kept(snapshot: Snapshot, owned: OwnedCar, chosen: tuple[Outlet, ...], limit: float, wait_s: float) -> tuple[_Years, ...]:
    """The years on some outlets, each kept for itself, so that one more takes no longer than it does alone. Raises: NotYet."""
    since, found = first_evening(snapshot.now.astimezone(owned.zone)), list[_Years]()
    for each in chosen:
        with suppress(NotYet):  # the next one is asked for all the same
            what, work = ("bench", owned, each, limit, since), partial(_years, owned=owned, outlet=each, limit=limit)
            found.append(derived_later(snapshot, what, work, wait_s, READS | {"price"}))
    if len(found) < len(chosen):
        raise NotYet
    return tuple(found)


def _years(snapshot: Snapshot, owned: OwnedCar, outlet: Outlet, limit: float) -> _Years:
    year, habit, here = car_year(snapshot, owned), owned.habit, snapshot.now.astimezone(owned.zone)
    span = here - timedelta(days=370), here + timedelta(days=3)
    tariff = with_prices(snapshot.log, owned.pays, span)
    offer, cells = Offer(outlet.supply, outlet.install_cost, outlet.held), tariff.cells(*span)
    price = snapshot.home.pack_price(year.car.pack.chemistry)
    plans = planned_years(
        offer, year.car, limit, nights=year.nights, prices=cells, choice=habit.warm_up, control=habit.control, pack_price=price
    )
    return _Years(year=year, tariff=tariff, cells=cells, offer=offer, plans=plans)


@lru_cache(maxsize=8)
def _compared(kept: tuple[_Years, ...], need: Need) -> OutletComparison:
    """The outlets in the air of tonight."""
    year, habit = kept[0].year, kept[0].year.owned.habit
    return outlet_comparison(
        [each.offer for each in kept],
        year.car,
        need,
        nights=year.nights,
        prices=kept[0].cells,
        choice=habit.warm_up,
        control=habit.control,
        years=[each.plans for each in kept],
    )


def _air(snapshot: Snapshot, owned: OwnedCar) -> tuple[float, float]:
    """Air around the car in the coming night, its mean, and the pack when plugged in: as Tonight has them (°C).

    A car without an outlet has no night: then the air of now by the year's weather, and a pack that has cooled to it.
    """
    try:
        ahead = ahead_of(snapshot, owned.id)
    except NotSetUp:
        air_c = climate_of(snapshot, owned.place).temperature_c(snapshot.minute)
        return air_c, air_c
    night = ahead.night(ahead.next_charge)
    request = night.evening.request if night.plugged else ahead.evenings[ahead.next_charge].request
    span = request.departure - request.plug_in
    air_c = float(np.mean([request.ambient_c(request.plug_in + span * part) for part in np.linspace(0, 1, 13)]))
    return air_c, request.pack_c


def _need(year: CarYear, inputs: BenchInputs, tariff: Tariff, *, here: datetime, air_c: float, pack_c: float) -> Need:
    """The day's energy when mild, at −10 °C and now, and the hours of the night."""
    habit, km = year.owned.habit, np.full(3, min(inputs.day_km, year.table.most_km))
    kwh, ends_c = year.table.ask(km, np.array([MILD_C, COLD_C, air_c]))
    kwh = kwh * inputs.day_km / km
    window_h, cheap_h = _night_hours(tariff, here, habit.plug_in, habit.depart)
    return Need(
        day_km=inputs.day_km,
        mild_kwh=float(kwh[0]),
        cold_kwh=float(kwh[1]),
        cold_pack_c=float(ends_c[1]),
        now_kwh_per_km=float(kwh[2]) / inputs.day_km,
        now_c=air_c,
        now_pack_c=pack_c,
        limit_soc=inputs.limit,
        floor_soc=habit.floor,
        cheap_h=cheap_h,
        window_h=window_h,
    )


def _night_hours(tariff: Tariff, now: datetime, plug_in: time, depart: time) -> tuple[float, float]:
    """Hours plugged in tonight, and how many of them are cheap."""
    evening = now.replace(hour=plug_in.hour, minute=plug_in.minute, second=0, microsecond=0)
    morning = evening.replace(hour=depart.hour, minute=depart.minute)
    if morning <= evening:
        morning += timedelta(days=1)
    return night_hours(tariff.prices(evening, morning))
