"""Writing the made-up household with its log into an empty store."""

from dataclasses import replace
from datetime import date, datetime, timedelta

import numpy as np

from ..core.car import Factors
from ..core.drive.certainty import OwnDays, own_days
from ..core.drive.replay import Days, replayed
from ..core.drive.tyre_log import TyreReading
from ..core.home import OwnedCar
from ..household.facts import TYRE, note_level, note_tyres
from ..household.models import BatteryRow, DriveRow, HouseholdRow, OutletRow, PersonRow, PlaceRow, PlanRow, PresentRow, ReadingRow
from ..household.prices import put_prices
from ..household.reader import read_home
from ..household.unit_of_work import Household
from ..services.departures.left import settle
from ..services.shared.past import RECENT, days_of
from ..standins.car_link import SeededCar
from ..standins.weather import SeededYear
from ..standins.wheel_sensors import SeededSensors
from .history import History
from .skarfell import EVENING as EVENING
from .skarfell import SETTLED_DAYS, coast, days_of_the_van, departures, feed_year, hatch, tariffs, van
from .world import LEAKING, demo_world

SEED = 1410


def fill(household: Household, years: float = 2.0, seed: int = SEED) -> None:
    """Write the household into an empty store, with a log of `years` before the demo's evening; nothing if it is there."""
    household = Household(household.engine, demo_world(household.engine))
    with household.recording() as session:
        house = session.get(HouseholdRow, 1) or HouseholdRow(id=1)
        if house.complete:
            return
        session.add(house)
        place = PlaceRow(name="Skarfell", zone="Europe/Oslo", altitude_m=PLACE_M, garage="unheated")
        session.add_all([place, PersonRow(name="Everyone")])
        house.currency, house.complete = "EUR", True
        session.add(PresentRow(id=1, clock=EVENING))
        wall = OutletRow(
            name="Wall unit", voltage_v=230, phases=3, breaker_a=32, code="iec", cable_a=32, place=place, point="barn"
        )
        socket = OutletRow(name="Barn socket", voltage_v=230, phases=1, breaker_a=16, code="iec", cable_a=10, place=place)
        grange = OutletRow(
            name="Three-phase 16 A, offered", voltage_v=230, phases=3, breaker_a=16, code="iec", install_cost=640, place=place
        )
        single = OutletRow(
            name="One-phase 16 A, offered", voltage_v=230, phases=1, breaker_a=16, code="iec", install_cost=280, place=place
        )
        two_step, three_step, half_hourly = tariffs()
        marten, dray = hatch(), van()
        marten.habit.outlet, marten.habit.tariff = wall, three_step
        dray.habit.outlet, dray.habit.tariff = wall, two_step
        marten.habit.tag, dray.habit.tag = "marten", "dray"
        session.add_all([wall, socket, grange, single, two_step, three_step, half_hourly, marten, dray])
        session.flush()
        put_prices(session, half_hourly.id, feed_year(years))
        days = days_of_the_van(dray)
        session.add_all([*days.values(), coast()])
        session.flush()
        session.add_all(departures(marten, dray, days))
        session.flush()
        session.expire_all()
        for car, its_seed, kw in zip(read_home(session).cars, (seed + 1, seed + 2), (11.0, 7.4), strict=True):
            log = _log(car, years, its_seed, _stayed(car))
            session.add_all([*log, *_readings(car, years)])
            soc, kpa, read_c = NOW[car.name]
            note_level(session, car.id, EVENING, soc)
            note_tyres(session, car.id, EVENING, kpa, read_c)
            drives = [each for each in log if isinstance(each, DriveRow)]
            past = History(
                car, drives, car.pays.tariff, seed=its_seed + 10, evening=EVENING, wall_kw=kw, soc_now=NOW[car.name][0]
            )
            session.add_all(list(past.rows()))
            session.add(
                BatteryRow(car_id=car.id, new_on=past.new_on, warranty_soh=0.7, warranty_years=8.0, warranty_km=160_000.0)
            )
    settle(household, EVENING)


def _stayed(car: OwnedCar) -> set[date]:
    """The days on which the simulated car did not leave when it was listed: nothing was driven on them."""
    dues = (due for each in car.departures for due in each.schedule.between(EVENING - timedelta(days=SETTLED_DAYS), EVENING))
    return {due.date() for due in dues if SeededCar().left_at(car.name, due) is None}


NOW = {"Marten": (0.41, 250.0, 8.0), "Dray": (0.55, 300.0, 12.0)}
"""What was read last: the level, and all four tyres cold (kPa) at a temperature (°C)."""


def _readings(car: OwnedCar, years: float) -> list[ReadingRow]:
    """A look at the tyres about every third week, cold in the morning."""
    found, sensors, weather = list[ReadingRow](), SeededSensors(leaking=LEAKING), SeededYear()
    for ago in range(int(years * 365), 5, -19):
        at = (EVENING - timedelta(days=ago)).replace(hour=7)
        tyre_c = round(weather.temperature_c(at), 1)
        for wheel, kpa in sensors.read(car.name, car.car.tyres.placard_kpa, at, tyre_c).items():
            look = ReadingRow(
                car_id=car.id, read_at=at, kind=TYRE, part=wheel, value=kpa, unit="kPa", temp_c=tyre_c, source="gauge"
            )
            found.append(look)
    return found


def _day_km(car: OwnedCar, departure: datetime, draw: np.random.Generator) -> float:
    """Marten commutes on weekdays and runs errands on Saturdays; Dray goes to its markets on Wednesdays and Saturdays."""
    day, usual = departure.weekday(), car.habit.km
    week = (1, 1, 1, 1, 1, 0.35, 0) if car.name == "Marten" else (0.5, 0.5, 1.6, 0.5, 0.5, 1.6, 0)
    return round(usual * week[day] * float(draw.normal(1, 0.06)), 0)


TRUE = {"Marten": Factors(base=1.07, heat=1.25, cold=1.15), "Dray": Factors(base=0.95, heat=1.2, cold=1.3)}
"""What the made-up cars really do against the model: for the app to find out from their log."""
DAY_SCATTER, ODD_SHARE = 0.03, 0.03
UNKNOWN_SIGMA, FORECAST_SIGMA = 0.1, 0.015
PLACE_M = 410.0


def log_days(car: OwnedCar, years: float, seed: int) -> tuple[list[datetime], Days, np.ndarray]:
    """Departures, the days as the car's own factors made them (noted in whole per cent, a few wrongly), and the model's levels."""
    draw = np.random.default_rng(seed)
    departures, km = [], []
    for ago in range(int(years * 365), 0, -1):
        departure = (EVENING - timedelta(days=ago - 1)).replace(hour=car.habit.depart.hour, minute=car.habit.depart.minute)
        distance = _day_km(car, departure, draw)
        if distance > 0:
            departures.append(departure)
            km.append(distance)
    _, kpa, read_c = NOW[car.name]
    planned = days_of(
        car, TyreReading(kpa, read_c), departures, np.array(km), np.zeros(len(km)), weather=[SeededYear()] * len(km)
    )
    core = replace(car.car, factors=Factors())
    model, real = (
        replayed(replace(core, factors=factors), car.habit.trip, planned, car.driven) for factors in (Factors(), TRUE[car.name])
    )
    fact = real * draw.normal(1, DAY_SCATTER, len(km))
    odd = draw.random(len(km)) < ODD_SHARE
    fact = np.where(odd, car.habit.limit - draw.uniform(0.05, car.habit.limit - 0.02, len(km)), fact)
    noted = car.habit.limit - np.clip(car.habit.limit - fact, 0.02, car.habit.limit - 0.01).round(2)
    return departures, replace(planned, soc_used=noted), model


def _log(car: OwnedCar, years: float, seed: int, stayed: set[date]) -> list[PlanRow | DriveRow]:
    """Plans as the app would have made them from the days before, and what was driven on them."""
    departures, days, model = log_days(car, years, seed)
    errors, rows = (days.soc_used / model - 1).tolist(), list[PlanRow | DriveRow]()
    for i, departure in enumerate(departures):
        if departure.date() in stayed:
            continue
        known = own_days(errors[max(0, i - RECENT) : i], Factors())
        plan = _plan(car, departure, float(days.km[i]), float(model[i]), known)
        used = float(days.soc_used[i])
        drive = DriveRow(
            car_id=car.id,
            plan=plan,
            left_at=departure,
            noted_at=departure + timedelta(hours=11),
            km=plan.km,
            soc_start=round(car.habit.limit, 2),
            soc_end=round(car.habit.limit - used, 2),
            assumed=["left_at", "km"],
        )
        rows += [plan, drive]
    return rows


def _plan(car: OwnedCar, departure: datetime, km: float, model: float, known: OwnDays) -> PlanRow:
    """One evening's plan."""
    doubt = UNKNOWN_SIGMA if known.bias_sigma is None else known.bias_sigma
    likely = car.habit.limit - model * (1 + known.bias)
    away = known.away * float(np.linalg.norm((doubt, known.day_sigma, FORECAST_SIGMA))) * model
    wall = model * car.car.pack.usable_kwh_new / 0.88
    return PlanRow(
        car_id=car.id,
        kept_at=departure - timedelta(hours=12),
        departure=departure,
        km=km,
        limit=car.habit.limit,
        soc_start=likely,
        soc_departure=car.habit.limit,
        arrival_low=likely - away,
        arrival_likely=likely,
        arrival_high=likely + away,
        wall_kwh=wall,
        cost=0.12 * wall,
    )
