"""The outlets bench: a home's outlets on the same need, under the car's tariff."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

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
from ..core.heat.warm import WarmUpChoice
from ..household.home import Home
from ..household.models import CarRow, PlaceRow
from ..household.parts import cars, control_of, held_of, household, outlets, place_of, supply_of, tariff_of, trip_of
from .car_year import READS, CarYear, car_year, year_of
from .climate import climate_of
from .clock import minute_of
from .evening import NotSetUp, evening, setting_at
from .remembered import LONG_S, once, remembered


@dataclass(frozen=True)
class BenchLevers:
    """What can be pulled: the day to cover (km), the limit (0 to 1), and the numbers of the outlets on the bench."""

    day_km: float
    limit: float
    outlet: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class OutletsBench:
    """Everything the bench shows; `numbers` are the outlets' own, in the order of the entries."""

    car_id: int
    car_name: str
    cars: tuple[tuple[int, str], ...]
    levers: BenchLevers
    usual: BenchLevers
    on_offer: tuple[tuple[int, str], ...]
    numbers: tuple[int, ...]
    shared_with: tuple[str, ...]
    bench: OutletComparison
    need: Need
    tariff_name: str
    year: CarYear


def outlets_bench(
    home: Home,
    now: datetime,
    car_id: int | None = None,
    pull: Callable[[BenchLevers], BenchLevers] = lambda usual: usual,
    wait_s: float = LONG_S,
) -> OutletsBench:
    """The bench for a car (the first when None) with the levers pulled; as soon as it is worked out, within `wait_s`.

    Raises: NotSetUp without car, tariff or outlet; Refusal with its field for a lever that cannot be; NotYet.
    """
    with home.reading() as session:
        rows, every = cars(session), outlets(session)
        row = next((each for each in rows if car_id in (None, each.id)), None)
        if row is None or row.habit.tariff is None or not every:
            raise NotSetUp
        at = place_of(row, session)
        here = [each for each in every if each.place_id in (None, at.id)]
        trip = trip_of(row.habit)
        usual = BenchLevers(trip.distance_km, row.habit.limit, tuple(each.id for each in here[:MOST_OFFERS]))
    levers = pull(usual)
    require(levers.day_km, 1, 1500, "The day", "km", "day_km")
    require(100 * levers.limit, 30, 100, "The limit", "%", "limit")
    chosen = tuple(each for each in here if each.id in levers.outlet)
    if not chosen:
        raise Refusal("Choose at least one outlet.", "outlet")
    if len(chosen) > MOST_OFFERS:
        raise Refusal(f"{MOST_OFFERS} outlets fit on the bench: take some off.", "outlet")
    # the nights of a year ask for nothing of tonight: they are kept, and what the outlets give tonight is worked out beside them
    what, reads = ("bench", row.id, levers.outlet, levers.limit, year_of(now, [at.zone])), READS | {"price", "household"}
    kept = remembered(home, what, lambda: _years(home, now, row.id, levers), wait_s, reads)
    now = minute_of(now)
    made, need = once(home, ("bench tonight", now, row.id, levers), lambda: _tonight(home, now, kept, row, levers))
    year = kept.year
    return OutletsBench(
        car_id=row.id,
        car_name=row.name,
        cars=tuple((each.id, each.name) for each in rows),
        levers=levers,
        usual=usual,
        on_offer=tuple((each.id, each.name) for each in here),
        numbers=tuple(each.id for each in chosen),
        shared_with=tuple(each.shared_with for each in chosen),
        bench=made,
        need=need,
        tariff_name=row.habit.tariff.name,
        year=year,
    )


@dataclass(frozen=True, eq=False, kw_only=True)
class _Years:
    """A car's year, the tariff that it is priced by, and its nights on each offer."""

    year: CarYear
    tariff: Tariff
    cells: PriceCells
    offers: tuple[Offer, ...]
    plans: tuple[Plans, ...]


def _years(home: Home, now: datetime, car_id: int, levers: BenchLevers) -> _Years:
    with home.reading() as session:
        house = household(session)
        row = next(each for each in cars(session) if each.id == car_id)
        if row.habit.tariff is None:
            raise NotSetUp
        year = car_year(session, row, now)
        here = now.astimezone(ZoneInfo(year.place.zone))
        begin, end = here - timedelta(days=370), here + timedelta(days=3)
        tariff = tariff_of(session, row.habit.tariff, house.currency, year.place.zone, (begin, end))
        offers = tuple(
            Offer(supply_of(each), each.install_cost, held_of(each)) for each in outlets(session) if each.id in levers.outlet
        )
    cells, choice = tariff.cells(begin, end), WarmUpChoice(row.habit.warm_up)
    plans = tuple(
        planned_years(each, year.car, levers.limit, year.nights, cells, choice, control_of(row.habit)) for each in offers
    )
    return _Years(year=year, tariff=tariff, cells=cells, offers=offers, plans=plans)


def _tonight(home: Home, now: datetime, kept: _Years, row: CarRow, levers: BenchLevers) -> tuple[OutletComparison, Need]:
    """The outlets in the air of tonight."""
    year = kept.year
    here = now.astimezone(ZoneInfo(year.place.zone))
    need = _need(year, row, levers, kept.tariff, here, *_air(home, now, row.id, year.place))
    choice, control = WarmUpChoice(row.habit.warm_up), control_of(row.habit)
    return outlet_comparison(kept.offers, year.car, need, year.nights, kept.cells, choice, control, kept.plans), need


def _air(home: Home, now: datetime, car_id: int, place: PlaceRow) -> tuple[float, float]:
    """Air around the car in the coming night, its mean, and the pack when plugged in: as Tonight has them (°C).

    A car without an outlet has no night: then the air of now by the year's weather, and a pack that has cooled to it.
    """
    try:
        setting = setting_at(home, now, car_id)
    except NotSetUp:
        with home.reading() as session:
            air_c = climate_of(session, place).temperature_c(now.astimezone(ZoneInfo(place.zone)))
        return air_c, air_c
    request = evening(setting, setting.usual).request
    span = request.departure - request.plug_in
    air_c = float(np.mean([request.ambient_c(request.plug_in + span * part) for part in np.linspace(0, 1, 13)]))
    return air_c, request.pack_c


def _need(year: CarYear, row: CarRow, levers: BenchLevers, tariff: Tariff, here: datetime, air_c: float, pack_c: float) -> Need:
    """The day's energy when mild, at −10 °C and now, and the hours of the night."""
    km = np.full(3, min(levers.day_km, year.table.most_km))
    kwh, ends_c = year.table.ask(km, np.array([MILD_C, COLD_C, air_c]))
    kwh = kwh * levers.day_km / km
    window_h, cheap_h = _night_hours(tariff, here, row.habit.plug_in, row.habit.depart)
    return Need(
        day_km=levers.day_km,
        mild_kwh=float(kwh[0]),
        cold_kwh=float(kwh[1]),
        cold_pack_c=float(ends_c[1]),
        now_kwh_per_km=float(kwh[2]) / levers.day_km,
        now_c=air_c,
        now_pack_c=pack_c,
        limit_soc=levers.limit,
        floor_soc=row.habit.floor,
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
