"""The day: trips, conditions and levers from tonight's plan to the fan, the tally, what would help, and what is learnt."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields, replace
from datetime import UTC, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.advice.remedies import Remedy, Situation, remedies
from ..core.drive.air import pressure_at
from ..core.drive.certainty import LevelBand, Point, along, empty_at_km
from ..core.drive.day import Drive, Leg, Park, Road, Start, Trip
from ..core.drive.extras import Extras
from ..core.drive.rating import Rated, dashboard_km
from ..core.drive.road import Conditions, Surface, load_of
from ..core.drive.speeds import SpeedView, speed_view
from ..core.drive.tally import Tally, fair_tally
from ..core.drive.tyres import SIDEWALL_KPA, TyreAdvice, advise, driven_gauge
from ..core.errors import Refusal
from ..core.heat.warm import WarmUpChoice
from ..household.facts import driven_count
from ..household.home import Home, cars
from ..household.models import CarRow, DayRow
from .tonight import Tonight, tonight

MOST_TRIPS = 6
SPEEDS_KMH = tuple(range(80, 141, 5))
LATER_H = 2


@dataclass(frozen=True)
class OneTrip:
    """A trip: kilometres by road, and the hours parked after it."""

    town: float = 0.0
    country: float = 0.0
    motorway: float = 0.0
    parked: float = 1.0

    @property
    def km(self) -> float:
        """Its kilometres."""
        return self.town + self.country + self.motorway


NO_TRIPS = (OneTrip(),) * MOST_TRIPS


@dataclass(frozen=True, kw_only=True)
class DayLevers:
    """What can be pulled: the trips, as many as a day has (those without kilometres are left out), °C, m/s, kPa, kg; levels 0 to 1."""

    trips: tuple[OneTrip, ...]
    leave_soc: float
    motorway_kmh: float
    town_kmh: float = 0.0
    climb_m: float = 0.0
    out_c: float
    wind_mps: float
    tyre_kpa: float
    people: int
    luggage_kg: float = 0.0
    cabin_c: float
    seats: float = 0.0
    climate: bool = True
    surface: Surface = Surface.DRY
    style: float = 1.0
    roof_box: bool = False
    rear_carrier: bool = False
    covers_off: bool = False
    snow: bool = False

    def trip(self) -> Trip:
        """The day's legs, parked time between the trips. Raises: Refusal for a day without kilometres."""
        legs: list[Leg] = []
        for i, one in enumerate(self.trips):
            out = [
                Drive(Road.TOWN, one.town, self.town_kmh or None),
                Drive(Road.COUNTRY, one.country),
                Drive(Road.MOTORWAY, one.motorway, self.motorway_kmh),
            ]
            driven = [leg for leg in out if leg.distance_km > 0]
            if not driven:
                continue
            if legs:
                legs.append(Park(self.trips[i - 1].parked))
            legs += reversed(driven) if i % 2 else driven
        if not legs:
            raise Refusal("A day needs at least one leg: enter some kilometres.", "town_1")
        return Trip(tuple(legs), self.climb_m)

    def flat(self) -> dict[str, object]:
        """Every lever under one name, those of the trips numbered: town_1, parked_1, …"""
        found: dict[str, object] = {each.name: getattr(self, each.name) for each in fields(self) if each.name != "trips"}
        for i, one in enumerate(self.trips, 1):
            found |= {f"{each.name}_{i}": getattr(one, each.name) for each in fields(one)}
        return found

    def pulled(self, values: Mapping[str, object]) -> "DayLevers":
        """With some levers pulled, by their names in `flat`."""
        own, trips = dict(values), list(self.trips)
        for name in list(own):
            road, _, number = name.rpartition("_")
            if number.isdigit():
                trips[int(number) - 1] = replace(trips[int(number) - 1], **{road: own.pop(name)})  # type: ignore[arg-type]
        return replace(self, trips=tuple(trips), **own)  # type: ignore[arg-type]

    @property
    def extras(self) -> Extras:
        """What is on the car."""
        return Extras(self.roof_box, self.rear_carrier, self.covers_off, self.snow)


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


PRESETS: dict[str, tuple[tuple[OneTrip, ...], float]] = {
    "usual": ((), 0.0),
    "errand": ((OneTrip(town=3.0, parked=0.5), OneTrip(town=3.0)), 0.0),
    "jam": ((OneTrip(town=5.0),), 6.7),
    "long": ((OneTrip(town=5.0, motorway=150.0, parked=6.0), OneTrip(town=5.0, motorway=150.0)), 0.0),
}
"""Days to start from: trips, and the town's traffic (km/h, 0 as the schedule has it)."""
OF_THE_DAY = {"motorway_kmh", "town_kmh", "climb_m", "people", "luggage_kg", "style", "roof_box", "rear_carrier", "covers_off"}
"""What belongs to a day besides its trips, and not to its weather."""


def kept_values(levers: DayLevers) -> dict[str, object]:
    """What is kept of a day: its trips, and what else belongs to it."""
    return {name: value for name, value in levers.flat().items() if name in OF_THE_DAY or name[-1].isdigit()}


def kept_days(home: Home, car_id: int) -> tuple[tuple[int, str], ...]:
    """The days kept for a car: number and name."""
    with home.reading() as session:
        return tuple((row.id, row.name) for row in _kept_rows(session, car_id))


def _kept_rows(session: Session, car_id: int) -> list[DayRow]:
    wanted = select(DayRow).where(DayRow.car_id == car_id, DayRow.withdrawn.is_(False)).order_by(DayRow.id)
    return list(session.scalars(wanted))


def keep_day(home: Home, car_id: int, name: str, pulled: DayLevers) -> tuple[int, int]:
    """Keep a day to start from, in place of one of the same name; returns its number and the one to undo it by.

    Raises: Refusal for an empty or overlong name.
    """
    if not 1 <= len(name.strip()) <= 40:
        raise Refusal("A day to keep needs a name of up to 40 letters.", "day_name")
    values = kept_values(pulled)
    with home.deciding(f"Day “{name.strip()}” kept") as session:
        row = next((each for each in _kept_rows(session, car_id) if each.name == name.strip()), None)
        if row is None:
            row = DayRow(car_id=car_id, name=name.strip(), levers=values)
            session.add(row)
        row.levers = values
    return row.id, session.number


def drop_day(home: Home, number: int) -> int:
    """Put a kept day away; returns the number to undo it by. Raises: Refusal when there is none."""
    with home.deciding("Day put away") as session:
        row = session.get(DayRow, number)
        if row is None or row.withdrawn:
            raise Refusal("There is no such day.")
        session.words = f"Day “{row.name}” put away"
        row.withdrawn = True
    return session.number


def usual_day(night: Tonight, row: CarRow) -> DayLevers:
    """The levers before anybody pulls one: out and home on the usual roads, from tonight's plan, levers and weather."""
    half = night.levers.km / row.habit.km / 2
    town, country, motorway = row.habit.town_km * half, row.habit.country_km * half, row.habit.motorway_km * half
    return DayLevers(
        trips=(OneTrip(town, country, motorway, row.habit.parked_h), OneTrip(town, country, motorway), *NO_TRIPS[2:]),
        leave_soc=round(night.plan.soc_departure, 3),
        motorway_kmh=night.levers.motorway_kmh,
        out_c=round(night.conditions.ambient_c, 1),
        wind_mps=round(night.conditions.wind_mps, 1),
        tyre_kpa=night.levers.tyre_kpa,
        people=night.levers.people,
        cabin_c=night.levers.cabin_c,
    )


def preset_day(usual: DayLevers, key: str) -> DayLevers:
    """A day to start from, everything but its kilometres as usual."""
    trips, town_kmh = PRESETS.get(key, PRESETS["usual"])
    return replace(usual, trips=(*trips, *NO_TRIPS[len(trips) :]), town_kmh=town_kmh) if trips else usual


def day(
    home: Home,
    now: datetime,
    car_id: int | None = None,
    preset: str = "usual",
    pull: Callable[[DayLevers], DayLevers] = lambda usual: usual,
) -> Day:
    """Compute the room for a car (the first when None). Raises: NotSetUp; Refusal with its field."""
    night = tonight(home, now, car_id, tallied=False)
    with home.reading() as session:
        row = next(each for each in cars(session) if each.id == night.car_id)
        count = driven_count(session, row.id)
        mine = next((each.levers for each in _kept_rows(session, row.id) if f"own-{each.id}" == preset), None)
    usual = preset_day(usual_day(night, row), preset)
    if mine is not None:
        names = kept_values(usual)
        usual = usual.pulled({name: value for name, value in mine.items() if name in names})
    pulled = pull(usual)
    trip = pulled.trip()
    conditions, gauge = _conditions(night, pulled)
    start = Start(pulled.leave_soc, night.plan.warm.pack_c, night.plan.warm.cabin_c)
    points = along(night.car, trip, conditions, start, night.known)
    plan = night.plan
    tally = None
    if start.soc > row.habit.reserve + 0.005:
        tally = fair_tally(night.car, trip, conditions, start, reserve_soc=row.habit.reserve, price_per_kwh=plan.price_in_pack)
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
    here_c = night.plan.request.ambient_c(night.now.astimezone(UTC))
    roads = any(leg.road is Road.MOTORWAY for leg in trip.drives)
    return Day(
        night=night,
        levers=pulled,
        usual=usual,
        trip=trip,
        conditions=conditions,
        start=start,
        points=points,
        tally=tally,
        remedies=remedies(situation),
        speeds=speed_view(night.car, trip, conditions, start, SPEEDS_KMH) if roads else None,
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
    )


def _conditions(night: Tonight, pulled: DayLevers) -> tuple[Conditions, float]:
    gauge = driven_gauge(pulled.tyre_kpa, night.tyre_read_c, pulled.out_c, night.conditions.altitude_m)
    return Conditions(
        ambient_c=pulled.out_c,
        relative_humidity=night.conditions.relative_humidity,
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
