"""The day: trips, conditions and inputs from tonight's plan to the fan, the tally, what would help, and what is learnt."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, timedelta
from typing import Any

from ...core.advice.remedies import Remedy, Situation, helping
from ...core.advice.road_speeds import bearable_kmh
from ...core.drive.air import pressure_at
from ...core.drive.batch import Driving, in_one_batch
from ...core.drive.certainty import LevelBand, Point, empty_at_km, fan
from ...core.drive.day import Road, Start, Trip
from ...core.drive.day_inputs import MOST_TRIPS, NO_TRIPS, DayInputs, OneTrip, kept_day, kept_values, preset_day
from ...core.drive.rating import Rated, dashboard_km
from ...core.drive.road import Conditions, load_of
from ...core.drive.speeds import SpeedView, by_speed
from ...core.drive.tally import Tally, tallied
from ...core.drive.tyres import SIDEWALL_KPA, TyreAdvice, advise, driven_gauge
from ...core.errors import Refusal
from ...household.departures import put_day_away, write_day
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..long_day.ways import roads_allow
from ..shared.derived import in_this_minute
from ..shared.facts import driven_count
from ..tonight.room import Tonight, tonight

SPEEDS_KMH = tuple(range(80, 141, 5))
LATER_H = 2


@dataclass(frozen=True, kw_only=True)
class Day:
    """Everything the room shows. `need_soc` is the level at departure whose cautious arrival is just the reserve."""

    night: Tonight
    inputs: DayInputs
    defaults: DayInputs
    trip: Trip
    conditions: Conditions
    start: Start
    points: tuple[Point, ...]
    tally: Tally | None
    remedies: tuple[Remedy, ...]
    speeds: SpeedView | None
    rated: Rated
    need_soc: float
    tyre_cold_kpa: float
    tyres: TyreAdvice
    here_c: float
    noted: int
    situation: Situation

    @property
    def arrival(self) -> LevelBand:
        """The level's band at the end of the day."""
        night = self.night
        as_planned = (self.trip, self.conditions, self.start) == (night.trip, night.conditions, night.start)
        return night.arrival if as_planned else self.points[-1].level

    @property
    def enough(self) -> bool:
        """Whether the cautious end of the arrival stays above the reserve."""
        return self.arrival.low >= self.night.reserve

    @property
    def empty_km(self) -> float | None:
        """Where the likely level reaches the reserve, km; None when it does not on this day."""
        return empty_at_km(self.points, self.night.reserve)


def keep_day(
    household: Household, car_id: int, name: str, inputs: DayInputs, seen_revision: int | None = None
) -> tuple[int, int]:
    """Keep a day to start from, in place of one of the same name; returns its number and the one to undo it by.

    Raises: Refusal for an empty or overlong name; Stale.
    """
    if not 1 <= len(name.strip()) <= 40:
        raise Refusal("A day to keep needs a name of up to 40 letters.", "day_name")
    with household.deciding(f"Day “{name.strip()}” kept", seen_revision) as session:
        kept = write_day(session, car_id, name.strip(), kept_values(inputs))
    return kept, session.number


def drop_day(household: Household, number: int, seen_revision: int | None = None) -> int:
    """Put a kept day away; returns the number to undo it by. Raises: Refusal when there is none; Stale."""
    with household.deciding("Day put away", seen_revision) as session:
        session.words = f"Day “{put_day_away(session, number)}” put away"
    return session.number


def usual_day(night: Tonight) -> DayInputs:
    """The inputs before anybody sets one: the day that Tonight plans for, with its levels, inputs and weather."""
    own = night.days.get(night.inputs.day)
    if own is not None:
        scale = night.inputs.km / own[1].trip().distance_km
        base = replace(own[1], trips=tuple(one.scaled(scale) for one in own[1].trips))
    else:
        roads = {leg.road: leg.distance_km for leg in night.outing.legs_out()}
        town, country, motorway = (roads.get(road, 0.0) for road in (Road.TOWN, Road.COUNTRY, Road.MOTORWAY))
        one = OneTrip(town, country, motorway, night.outing.parked_h)
        base = kept_day({}, night.inputs.motorway_kmh, night.inputs.people)
        base = replace(base, trips=(*[one] * night.outing.trips, *NO_TRIPS)[:MOST_TRIPS])
    return replace(
        base,
        leave_soc=night.start.soc,
        motorway_kmh=night.inputs.motorway_kmh,
        people=night.inputs.people,
        out_c=night.conditions.ambient_c,
        wind_mps=night.conditions.wind_mps,
        tyre_kpa=night.inputs.tyre_kpa,
        cabin_c=night.inputs.cabin_c,
        seats=float(night.conditions.seats),
        surface=night.inputs.surface,
        humidity=night.conditions.relative_humidity,
        friction_share=night.car.drivetrain.friction_share,
    )


def day(
    snapshot: Snapshot,
    car_id: int | None = None,
    preset: str = "",
    override: Callable[[DayInputs], DayInputs] = lambda defaults: defaults,
) -> Day:
    """Compute the room for a car (the first when None), from a day to start from or the one that Tonight plans for.

    Raises: NotSetUp; Refusal with its field.
    """
    night = tonight(snapshot, car_id, day=preset)
    defaults = preset_day(usual_day(night), preset)
    inputs = override(defaults)

    def work() -> Day:
        return _driven(night, defaults, inputs, driven_count(snapshot, night.car_id))

    return in_this_minute(snapshot, ("day", car_id, preset, inputs), work)


def _driven(night: Tonight, defaults: DayInputs, inputs: DayInputs, count: int) -> Day:
    """The day with these inputs, everything that the room shows of it driven in one pass."""
    trip = inputs.trip()
    conditions, gauge = _conditions(night, inputs, defaults)
    start, plan = replace(night.start, soc=inputs.leave_soc), night.before_drive.plan
    later = night.weather.temperature_c(plan.request.departure + timedelta(hours=LATER_H))
    ahead = later + (inputs.out_c - defaults.out_c)
    situation = Situation(
        car=night.car,
        trip=trip,
        conditions=conditions,
        start=start,
        extras=inputs.extras,
        warmed=night.owned.habit.warm_up,
        wall_kw=night.rate.wall_kw,
        price_in_pack=plan.price_in_pack,
        morning_price=plan.prices[-1].price_per_kwh if plan.prices else 0.0,
        later_c=ahead,
        limit_soc=inputs.leave_soc,
    )
    works = dict(_works(night, inputs, situation))
    done = dict(zip(works, in_one_batch(*works.values()), strict=True))
    points: tuple[Point, ...] = done["points"]
    here_c = plan.request.ambient_c(night.now.astimezone(UTC))
    return Day(
        night=night,
        inputs=inputs,
        defaults=defaults,
        trip=trip,
        conditions=conditions,
        start=start,
        points=points,
        tally=done.get("tally"),
        remedies=done["remedies"],
        speeds=done.get("speeds"),
        rated=dashboard_km(night.car, start.soc),
        need_soc=start.soc - points[-1].level.low + night.reserve,
        tyre_cold_kpa=gauge,
        tyres=_tyres(night, inputs, here_c),
        here_c=here_c,
        noted=count,
        situation=situation,
    )


def _works(night: Tonight, inputs: DayInputs, situation: Situation) -> Iterator[tuple[str, Driving[Any]]]:
    """What is driven for the room, by its name: the fan, what would help, the tally from a level above the reserve, other speeds."""
    car, trip, conditions, start = situation.car, situation.trip, situation.conditions, situation.start
    yield "points", fan(car, trip, conditions, start, night.known)
    yield "remedies", helping(situation)
    if start.soc > night.reserve + 0.005:
        price = situation.price_in_pack
        yield (
            "tally",
            tallied(car, trip, conditions, start, reserve_soc=night.reserve, standby_soc=night.stood_soc, price_per_kwh=price),
        )
    if any(leg.road is Road.MOTORWAY for leg in trip.drives):
        most = max(bearable_kmh(roads_allow(night.owned), conditions.ambient_c), inputs.motorway_kmh)
        yield "speeds", by_speed(car, trip, conditions, start, tuple(each for each in SPEEDS_KMH if each <= most))


def _conditions(night: Tonight, inputs: DayInputs, defaults: DayInputs) -> tuple[Conditions, float]:
    """Of the drives: a day of warm seats alone keeps its heater off until somebody sets climate or seats."""
    as_planned = (inputs.climate, inputs.seats) == (defaults.climate, defaults.seats)
    gauge = driven_gauge(inputs.tyre_kpa, night.tyre_read_c, inputs.out_c, night.conditions.altitude_m)
    return Conditions(
        ambient_c=inputs.out_c,
        relative_humidity=inputs.humidity,
        altitude_m=night.conditions.altitude_m,
        wind_mps=inputs.wind_mps,
        surface=inputs.surface,
        tyre_gauge_kpa=gauge,
        load_kg=load_of(inputs.people, inputs.luggage_kg),
        drag_factor=inputs.extras.drag_factor,
        style=inputs.style,
        cabin_set_c=inputs.cabin_c if inputs.climate else None,
        seats=inputs.seats,
        heater=night.conditions.heater if as_planned else 1.0,
        ambient_sigma_k=night.conditions.ambient_sigma_k,
        pack_heat=float(inputs.pack_heat),
        friction_share=None if inputs.friction_share == defaults.friction_share else inputs.friction_share,
    ), gauge


def _tyres(night: Tonight, inputs: DayInputs, here_c: float) -> TyreAdvice:
    """Tomorrow's pressure from the reading, and what to set where the car stands now; the cap is above every placard."""
    outside_kpa = pressure_at(night.conditions.altitude_m) / 1000.0
    placard_kpa = night.car.tyres.placard_kpa
    most = max(SIDEWALL_KPA, placard_kpa + 40.0)
    return advise(
        inputs.tyre_kpa, night.tyre_read_c, here_c, inputs.out_c, placard_kpa, ambient_kpa=outside_kpa, sidewall_kpa=most
    )
