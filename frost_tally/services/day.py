"""The day: trips, conditions and levers from tonight's plan to the fan, the tally, what would help, and what is learnt."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from ..core.advice.remedies import Remedy, Situation, helping
from ..core.drive.air import pressure_at
from ..core.drive.certainty import LevelBand, Point, empty_at_km, fan
from ..core.drive.day import Road, Start, Trip
from ..core.drive.rating import Rated, dashboard_km
from ..core.drive.road import Conditions, load_of
from ..core.drive.speeds import SpeedView, by_speed
from ..core.drive.tally import Tally, tallied
from ..core.drive.together import Driving, together
from ..core.drive.tyres import SIDEWALL_KPA, TyreAdvice, advise, driven_gauge
from ..core.errors import Refusal
from ..core.heat.warm import WarmUpChoice
from ..household.facts import driven_count
from ..household.home import Home
from ..household.models import CarRow, DayRow
from ..household.parts import cars, days_kept
from .day_levers import MOST_TRIPS, NO_TRIPS, DayLevers, OneTrip, kept_day, kept_values, preset_day
from .remembered import once
from .tonight import Tonight, tonight

SPEEDS_KMH = tuple(range(80, 141, 5))
LATER_H = 2


@dataclass(frozen=True, kw_only=True)
class Taught:
    """What the log taught: the car's factors, from how many days, and the error on held-back days before and after."""

    base: float
    heat: float
    cold: float
    days: int
    before: float
    after: float


@dataclass(frozen=True, kw_only=True)
class Day:
    """Everything the room shows. `need_soc` is the level at departure whose cautious arrival is just the reserve."""

    night: Tonight
    levers: DayLevers
    usual: DayLevers
    trip: Trip
    conditions: Conditions
    start: Start
    points: tuple[Point, ...]
    tally: Tally | None
    remedies: tuple[Remedy, ...]
    speeds: SpeedView | None
    rated: Rated
    reserve: float
    need_soc: float
    tyre_cold_kpa: float
    tyres: TyreAdvice
    here_c: float
    learnt: Taught | None
    noted: int
    situation: Situation

    @property
    def arrival(self) -> LevelBand:
        """The level's band at the end of the day."""
        return self.points[-1].level

    @property
    def enough(self) -> bool:
        """Whether the cautious end of the arrival stays above the reserve."""
        return self.arrival.low >= self.reserve

    @property
    def empty_km(self) -> float | None:
        """Where the likely level reaches the reserve, km; None when it does not on this day."""
        return empty_at_km(self.points, self.reserve)


def kept_days(home: Home, car_id: int) -> tuple[tuple[int, str], ...]:
    """The days kept for a car: number and name."""
    with home.reading() as session:
        return tuple((row.id, row.name) for row in days_kept(session, car_id))


def keep_day(home: Home, car_id: int, name: str, pulled: DayLevers, seen_revision: int | None = None) -> tuple[int, int]:
    """Keep a day to start from, in place of one of the same name; returns its number and the one to undo it by.

    Raises: Refusal for an empty or overlong name; Stale.
    """
    if not 1 <= len(name.strip()) <= 40:
        raise Refusal("A day to keep needs a name of up to 40 letters.", "day_name")
    values = kept_values(pulled)
    with home.deciding(f"Day “{name.strip()}” kept", seen_revision) as session:
        row = next((each for each in days_kept(session, car_id) if each.name == name.strip()), None)
        if row is None:
            row = DayRow(car_id=car_id, name=name.strip(), levers=values)
            session.add(row)
        row.levers = values
    return row.id, session.number


def drop_day(home: Home, number: int, seen_revision: int | None = None) -> int:
    """Put a kept day away; returns the number to undo it by. Raises: Refusal when there is none; Stale."""
    with home.deciding("Day put away", seen_revision) as session:
        row = session.get(DayRow, number)
        if row is None or row.withdrawn:
            raise Refusal("There is no such day.")
        session.words = f"Day “{row.name}” put away"
        row.withdrawn = True
    return session.number


def usual_day(night: Tonight) -> DayLevers:
    """The levers before anybody pulls one: the day that Tonight plans for, with its levels, levers and weather."""
    own = night.days.get(night.levers.day)
    if own is not None:
        scale = night.levers.km / own[1].trip().distance_km
        base = replace(own[1], trips=tuple(one.scaled(scale) for one in own[1].trips))
    else:
        roads = {leg.road: leg.distance_km for leg in night.outing.legs_out()}
        town, country, motorway = (roads.get(road, 0.0) for road in (Road.TOWN, Road.COUNTRY, Road.MOTORWAY))
        one = OneTrip(town, country, motorway, night.outing.parked_h)
        base = kept_day({}, night.levers.motorway_kmh, night.levers.people)
        base = replace(base, trips=(*[one] * night.outing.trips, *NO_TRIPS)[:MOST_TRIPS])
    return replace(
        base,
        leave_soc=night.plan.soc_departure,
        motorway_kmh=night.levers.motorway_kmh,
        people=night.levers.people,
        out_c=night.conditions.ambient_c,
        wind_mps=night.conditions.wind_mps,
        tyre_kpa=night.levers.tyre_kpa,
        cabin_c=night.levers.cabin_c,
        seats=float(night.conditions.seats),
        surface=night.levers.surface,
        humidity=night.conditions.relative_humidity,
    )


def day(
    home: Home,
    now: datetime,
    car_id: int | None = None,
    preset: str = "",
    pull: Callable[[DayLevers], DayLevers] = lambda usual: usual,
) -> Day:
    """Compute the room for a car (the first when None), from a day to start from or the one that Tonight plans for.

    Raises: NotSetUp; Refusal with its field.
    """
    night = tonight(home, now, car_id, day=preset)
    with home.reading() as session:
        row = next(each for each in cars(session) if each.id == night.car_id)
        count = driven_count(session, row.id)
    usual = preset_day(usual_day(night), preset)
    pulled = pull(usual)
    return once(home, ("day", now, car_id, preset, pulled), lambda: _driven(night, row, usual, pulled, count))


def _driven(night: Tonight, row: CarRow, usual: DayLevers, pulled: DayLevers, count: int) -> Day:
    """The day with these levers, everything that the room shows of it driven in one pass."""
    trip = pulled.trip()
    conditions, gauge = _conditions(night, pulled)
    start = Start(pulled.leave_soc, night.plan.warm.pack_c, night.plan.warm.cabin_c)
    plan = night.plan
    later = night.weather.temperature_c(plan.request.departure + timedelta(hours=LATER_H))
    ahead = later + (pulled.out_c - usual.out_c)
    situation = Situation(
        car=night.car,
        trip=trip,
        conditions=conditions,
        start=start,
        extras=pulled.extras,
        warmed=WarmUpChoice(row.habit.warm_up),
        wall_kw=night.rate.wall_kw,
        price_in_pack=plan.price_in_pack,
        morning_price=plan.prices[-1].price_per_kwh if plan.prices else 0.0,
        later_c=ahead,
        limit_soc=pulled.leave_soc,
    )
    works: dict[str, Driving[Any]] = {
        "points": fan(night.car, trip, conditions, start, night.known),
        "remedies": helping(situation),
    }
    if start.soc > row.habit.reserve + 0.005:
        known = {"reserve_soc": row.habit.reserve, "price_per_kwh": plan.price_in_pack}
        works["tally"] = tallied(night.car, trip, conditions, start, **known)
    if any(leg.road is Road.MOTORWAY for leg in trip.drives):
        works["speeds"] = by_speed(night.car, trip, conditions, start, SPEEDS_KMH)
    done = dict(zip(works, together(*works.values()), strict=True))
    points: tuple[Point, ...] = done["points"]
    here_c = night.plan.request.ambient_c(night.now.astimezone(UTC))
    return Day(
        night=night,
        levers=pulled,
        usual=usual,
        trip=trip,
        conditions=conditions,
        start=start,
        points=points,
        tally=done.get("tally"),
        remedies=done["remedies"],
        speeds=done.get("speeds"),
        rated=dashboard_km(night.car, start.soc),
        reserve=row.habit.reserve,
        need_soc=start.soc - points[-1].level.low + row.habit.reserve,
        tyre_cold_kpa=gauge,
        tyres=_tyres(night, pulled, row, here_c),
        here_c=here_c,
        learnt=Taught(
            base=row.learnt.base,
            heat=row.learnt.heat,
            cold=row.learnt.cold,
            days=row.learnt.days,
            before=row.learnt.before,
            after=row.learnt.after,
        )
        if row.learnt
        else None,
        noted=count,
        situation=situation,
    )


def _conditions(night: Tonight, pulled: DayLevers) -> tuple[Conditions, float]:
    gauge = driven_gauge(pulled.tyre_kpa, night.tyre_read_c, pulled.out_c, night.conditions.altitude_m)
    return Conditions(
        ambient_c=pulled.out_c,
        relative_humidity=pulled.humidity,
        altitude_m=night.conditions.altitude_m,
        wind_mps=pulled.wind_mps,
        surface=pulled.surface,
        tyre_gauge_kpa=gauge,
        load_kg=load_of(pulled.people, pulled.luggage_kg),
        drag_factor=pulled.extras.drag_factor,
        style=pulled.style,
        cabin_set_c=pulled.cabin_c if pulled.climate else None,
        seats=pulled.seats,
    ), gauge


def _tyres(night: Tonight, pulled: DayLevers, row: CarRow, here_c: float) -> TyreAdvice:
    """Tomorrow's pressure from the reading, and what to set where the car stands now; the cap is above every placard."""
    outside_kpa = pressure_at(night.conditions.altitude_m) / 1000.0
    most = max(SIDEWALL_KPA, row.placard_kpa + 40.0)
    return advise(pulled.tyre_kpa, night.tyre_read_c, here_c, pulled.out_c, row.placard_kpa, outside_kpa, most)
