"""The long day of a car: its way and posts, what is known of the weather and the start, the plan, and what else could be done."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from ...core.advice.long_day import by_stops, fixed_marks, least_min, plan
from ...core.advice.long_way import SPEEDS_KMH, STOP_MIN, SUMMER_C, TIGHT_SOC, WINTER_C, Goal, LongDay, LongDayRequest
from ...core.advice.road_speeds import bearable_kmh
from ...core.battery.limit_policies import WAY_PRICE
from ...core.car import Car
from ...core.charge.fast import LowAndWarm, low_and_warm, scaled_points
from ...core.charge.stop_table import SLOW_KW, Post
from ...core.drive.day import Drive, Road, Start, Trip
from ...core.drive.road import Conditions
from ...core.drive.stages import between
from ...core.errors import require
from ...core.home import OfCar, OwnedCar, named
from ...core.parts import LongWay
from ...household.snapshot import Snapshot
from ..shared.derived import LONG_S, in_this_minute, of_value
from ..tonight.room import tonight
from .ways import roads_allow, taught

TOWN_KM = 4.0


@dataclass(frozen=True, kw_only=True)
class LongInputs:
    """What can be set: the way (km, of them country road, motorway speed, and what the roads allow), the air, levels, the posts that
    nobody listed (about every so many km, kW, price), a meal on the way (km, min; 0: none), the goal, minutes of a stop, whether the
    pack is warmed on the way, whether shared posts give all (`alone`), and where on the way one is (km).
    """

    km: float
    country_km: float
    motorway_kmh: float
    limit_kmh: float
    out_c: float
    leave_soc: float
    end_soc: float
    every_km: float
    post_kw: float
    price: float
    meal_km: float
    meal_min: float
    goal: Goal
    stop_min: float
    warms: bool
    alone: bool
    from_km: float


@dataclass(frozen=True, kw_only=True)
class LongRoom(OfCar):
    """Everything the page shows. `without_warming` is the same with a pack that nobody warms on the way (None: it makes no difference),
    `without_slow` with nothing charged where one stands anyway, `tight` with hardly a reserve (None: it gets there as asked).
    """

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    now: datetime
    departure: datetime
    inputs: LongInputs
    defaults: LongInputs
    ways: tuple[tuple[int, str], ...]
    way_id: int | None
    posts: tuple[Post, ...]
    listed: bool
    without: tuple[float, ...]
    made: LongDay
    without_warming: LongDay | None
    without_slow: LongDay | None
    tight: LongDay | None
    low_and_warm: LowAndWarm | None
    taught: float | None
    before: int
    currency: str


@dataclass(frozen=True, kw_only=True)
class SideBySide:
    """Minutes from door to door (None: does not get there): by number of stops in frost, in summer and as it is; by motorway speed, up
    to what the roads allow and in frost bear (`bounds`: frost, summer); and in frost with the pack warmed on the way, and without; and
    as it is with what slow posts give where one stands anyway, and without.
    """

    room: LongRoom
    frost: tuple[float | None, ...]
    summer: tuple[float | None, ...]
    here: tuple[float | None, ...]
    speeds: tuple[tuple[float, float | None, float | None], ...]
    warmed: tuple[float | None, float | None]
    slow: tuple[float | None, float | None]
    bounds: tuple[float, float]

    @property
    def inputs(self) -> LongInputs:
        """Those of the page."""
        return self.room.inputs

    @property
    def defaults(self) -> LongInputs:
        """The page's before anybody sets one."""
        return self.room.defaults


def long_day(
    snapshot: Snapshot,
    car_id: int | None,
    override: Callable[[LongInputs], LongInputs],
    way_id: int | None,
    without: tuple[float, ...],
) -> LongRoom:
    """The page for a car (the first when None), on a kept way when its number is given, without posts at some marks (km).

    Raises: NotSetUp, Refusal and OutOfRange with their field.
    """
    room, request = _asked(snapshot, car_id, override, way_id, without)

    def work() -> LongRoom:
        made = plan(request)
        cold = plan(replace(request, warms=False)) if any(each.warmed for each in made.stops) else None
        tight = None if made.reached or request.reserve_soc <= TIGHT_SOC else plan(replace(request, reserve_soc=TIGHT_SOC))
        slow = any(each.post.fills_while_standing for each in made.stops)
        idle = plan(replace(request, posts=_without_slow(request.posts))) if slow else None
        return replace(room, made=made, without_warming=cold, without_slow=idle, tight=tight)

    return in_this_minute(snapshot, ("long day", room.car_id, way_id, without, room.inputs), work)


def side_by_side(
    snapshot: Snapshot,
    car_id: int | None,
    override: Callable[[LongInputs], LongInputs],
    way_id: int | None,
    without: tuple[float, ...],
    wait_s: float = LONG_S,
) -> SideBySide:
    """How many stops in frost and in summer, and how fast; worked out within `wait_s`. Raises as `long_day`, and NotYet."""
    room, request = _asked(snapshot, car_id, override, way_id, without)

    def at(air_c: float) -> LongDayRequest:
        start = replace(request.start, pack_c=max(air_c, min(request.start.pack_c, 20.0)))
        return replace(request, conditions=replace(request.conditions, ambient_c=air_c), start=start)

    limit_kmh = room.inputs.limit_kmh
    bounds = bearable_kmh(limit_kmh, WINTER_C), bearable_kmh(limit_kmh, SUMMER_C)
    choices = sorted({*(each for each in SPEEDS_KMH if each < max(bounds)), *bounds})

    def speed(air_c: float, kmh: float) -> float | None:
        if kmh > bearable_kmh(limit_kmh, air_c):
            return None
        return least_min(replace(at(air_c), way=request.way.at_motorway_speed(kmh)))

    def work() -> SideBySide:
        return SideBySide(
            room=room,
            frost=tuple(by_stops(at(WINTER_C))),
            summer=tuple(by_stops(at(SUMMER_C))),
            here=tuple(by_stops(request)),
            warmed=(least_min(replace(at(WINTER_C), warms=True)), least_min(replace(at(WINTER_C), warms=False))),
            slow=(least_min(request), least_min(replace(request, posts=_without_slow(request.posts))))
            if any(each.fills_while_standing for each in request.posts)
            else (None, None),
            speeds=tuple((kmh, speed(WINTER_C, kmh), speed(SUMMER_C, kmh)) for kmh in choices),
            bounds=bounds,
        )

    # by the value of what is asked: whatever changes it, of the home or of the night, asks for another
    return replace(of_value(("long side", request, limit_kmh), work, wait_s), room=room)


def _asked(
    snapshot: Snapshot,
    car_id: int | None,
    override: Callable[[LongInputs], LongInputs],
    way_id: int | None,
    without: tuple[float, ...],
) -> tuple[LongRoom, LongDayRequest]:
    """The page without its plan, and what is asked of the planner."""
    night, ways = tonight(snapshot, car_id), snapshot.home.ways
    owned, now = night.owned, night.state
    way = next((each for each in ways if each.id == way_id), None)
    share, before = taught(snapshot, owned)
    conditions = night.conditions
    defaults = LongInputs(
        km=way.km if way else 420.0, country_km=way.country_km if way else 40.0, motorway_kmh=max(80.0, owned.habit.motorway_kmh),
        limit_kmh=(way.limit_kmh if way else None) or roads_allow(owned),
        out_c=round(conditions.ambient_c, 1), leave_soc=1.0, end_soc=0.1, every_km=50.0, post_kw=150.0,
        price=WAY_PRICE * snapshot.home.per_euro, meal_km=0.0, meal_min=0.0,
        goal=Goal.TIME, stop_min=float(STOP_MIN), warms=True, alone=False, from_km=0.0,
    )  # fmt: skip
    inputs = override(defaults)
    car = now.errors.of(owned.car.checked())
    if share is not None:
        car = replace(car, fast_points=scaled_points(car, share))
    start = Start(inputs.leave_soc, float(round(night.start.pack_c)), float(round(night.start.cabin_c)))  # the plan counts in 4 K
    request = replace(
        _request(car, conditions, inputs, way=way, without=without, start=start, reserve=owned.habit.reserve), before=before
    )
    room = LongRoom(
        owned=owned, cars=snapshot.home.names, now=now.now, departure=night.plan.request.departure.astimezone(owned.zone),
        inputs=inputs, defaults=defaults, ways=named(ways), way_id=way.id if way else None, posts=request.posts,
        listed=way is not None and bool(way.posts), without=without, made=_unplanned(request),
        without_warming=None, without_slow=None, tight=None, taught=share,
        low_and_warm=low_and_warm(car, strong_kw, inputs.out_c, before) if (strong_kw := _strongest_kw(request)) > 0 else None,
        before=before, currency=night.currency,
    )  # fmt: skip
    return room, request


def _strongest_kw(request: LongDayRequest) -> float:
    """The most that a fast post of the way gives, kW; 0 where none stands."""
    return max((each.gives_kw for each in request.posts if each.kw > SLOW_KW), default=0.0)


def _without_slow(posts: Sequence[Post]) -> tuple[Post, ...]:
    """The same posts, with nothing charged at the slow ones where the car stands anyway."""
    return tuple(replace(each, kw=0.0) if each.fills_while_standing else each for each in posts)


def _unplanned(request: LongDayRequest) -> LongDay:
    """Before it is planned."""
    return LongDay(
        request=request, stops=(), driving_min=0.0, standing_min=0.0, end_soc=0.0, end_low=0.0, end_high=0.0, used_kwh=0.0, charged_kwh=0.0,
        cost=0.0, reached=False,
    )  # fmt: skip


def _request(
    car: Car,
    conditions: Conditions,
    inputs: LongInputs,
    *,
    way: LongWay | None,
    without: Sequence[float],
    start: Start,
    reserve: float,
) -> LongDayRequest:
    """What is asked of the planner: the way from where one is, with its posts that work and people's own stop."""
    require(inputs.km, 20, 2000, "The way", "km", "km")
    require(inputs.from_km, 0, inputs.km - 1, "Where you are", "km", "from_km")
    whole = _trip(inputs)
    air_c = inputs.out_c
    begins_c = start.pack_c if air_c < 15.0 else max(air_c, min(start.pack_c, 30.0))
    asked = LongDayRequest(
        car=car,
        way=whole,
        conditions=replace(conditions, ambient_c=air_c),
        start=replace(start, pack_c=begins_c),
        posts=(),
        reserve_soc=reserve,
        end_soc=inputs.end_soc,
        goal=inputs.goal,
        stop_min=inputs.stop_min,
        warms=inputs.warms,
    )
    listed = way.posts if way is not None else ()
    posts = listed or fixed_marks(asked, inputs.every_km, inputs.post_kw, inputs.price)
    if inputs.meal_min > 0:
        require(inputs.meal_km, 1, inputs.km - 1, "The meal", "km", "meal_km")
        posts = (*posts, Post(km=inputs.meal_km, kw=0.0, stands_min=inputs.meal_min))
    closed = {round(each, 1) for each in without}
    ahead = [each for each in posts if inputs.from_km < each.km <= inputs.km and round(each.km, 1) not in closed]
    moved = tuple(replace(each, km=each.km - inputs.from_km, shared_kw=0.0 if inputs.alone else each.shared_kw) for each in ahead)
    return replace(asked, way=between(whole, inputs.from_km, [whole.distance_km]), posts=moved)


def _trip(inputs: LongInputs) -> Trip:
    """The way: town at both ends, half of the country road at each, motorway between."""
    town = min(TOWN_KM, inputs.km / 4)
    country = min(inputs.country_km, inputs.km - 2 * town)
    motorway = inputs.km - 2 * town - country
    legs = (
        Drive(Road.TOWN, town), Drive(Road.COUNTRY, country / 2), Drive(Road.MOTORWAY, motorway, inputs.motorway_kmh),
        Drive(Road.COUNTRY, country / 2), Drive(Road.TOWN, town),
    )  # fmt: skip
    return Trip(tuple(each for each in legs if each.distance_km > 1e-6))
