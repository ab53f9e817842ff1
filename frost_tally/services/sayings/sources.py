"""What the sayings ask of the rooms, each as its room has it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ...core.advice.remedies import Situation, helping
from ...core.battery.limit_policies import WAY_PRICE
from ...core.charge.night import plan
from ...core.charge.season_timer import set_to
from ...core.charge.year import YearPlan
from ...core.coming.night import Cable
from ...core.drive.batch import alone
from ...core.drive.day import Start
from ...core.drive.extras import Extras
from ...core.drive.habits import habits
from ...core.drive.rating import dashboard_km
from ...core.drive.road import Conditions
from ...core.drive.tally import fair_tally
from ...core.heat.warm import WarmUpChoice
from ...core.home import NotSetUp, OwnedCar
from ...core.sayings.beyond_eighty import fifths_min
from ...core.sayings.known import (
    Driving,
    Here,
    Hours,
    Limits,
    LongWay,
    Others,
    Outlets,
    Post,
    Standing,
    Starts,
    Tariffs,
    Timer,
    Warming,
    Week,
    Winter,
)
from ...core.sayings.over_air import over_air
from ...household.snapshot import Snapshot
from ..another_car import own_elsewhere
from ..battery.room import health
from ..compare import comparison
from ..day.room import day
from ..habits import on_roads
from ..limit_policies import STORED_C, STORED_SOC, policies_room
from ..long_day.room import side_by_side
from ..outlets import outlets_bench
from ..parked import idle_of, parked_room
from ..shared.car_year import NIGHTS, READS, car_year, first_evening, planned
from ..shared.climate import climate_of
from ..shared.coming import ahead_of
from ..shared.derived import derived, derived_later, in_this_minute
from ..timer import timer_room
from ..warmup.room import warm_up_room
from ..week import week
from ..weekly import weekly_room
from ..winter.room import season
from ..winter.twelve_volt import twelve_volt

PACKS = (0.8, 1.25)
STAND_DAYS = 14


def here_of(snapshot: Snapshot, owned: OwnedCar) -> Here:
    """The car and its year, kept until another day or entry."""
    home = snapshot.home

    def work() -> Here:
        year = car_year(snapshot, owned)
        plan = planned(snapshot, year)
        price = WAY_PRICE * home.per_euro
        if plan is not None and plan.pack_kwh.sum() > 0:
            price = float(plan.cost.sum() / plan.pack_kwh.sum())
        return Here(
            owned=owned, car=year.car, km=year.km, air_c=year.out_c, use_kwh=year.nights.use_kwh, logged=year.logged, price=price,
            pack_price=home.pack_price(year.car.pack.chemistry), per_euro=home.per_euro,
        )  # fmt: skip

    what = ("sayings here", owned, home.per_euro, first_evening(snapshot.now.astimezone(owned.zone)))
    return derived(snapshot, what, work, READS | {"price"})


def _as_it_is(inputs: Any) -> Any:
    return inputs


def _apart(named: Sequence[tuple[int, str]]) -> dict[int, str]:
    """Names by number; those that several have, with their number."""
    names = [name for _, name in named]
    return {number: name if names.count(name) == 1 else f"{name} ({number})" for number, name in named}


def _tariffs(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Tariffs:
    made = comparison(snapshot, wait_s=wait_s)
    names = _apart(made.on_offer)
    totals = {names[number]: year.total for number, year in zip(made.numbers, made.years, strict=True)}
    now, best = (names[made.numbers[place]] for place in (made.now, made.best))
    return Tariffs(totals=totals, now=now, best=best)


def _timer(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Timer:
    room = timer_room(snapshot, owned.id, _as_it_is, wait_s)
    return Timer(made=room.made, nights=room.inputs.nights)


def _post(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Post:
    return Post(made=weekly_room(snapshot, owned.id, _as_it_is, wait_s).made)


def _others(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Others:
    usable = owned.car.pack.usable_kwh_new
    made = own_elsewhere(snapshot, owned.id, tuple(round(usable * each, 1) for each in PACKS), wait_s)
    return Others(own=made.own, garages=made.garages, smaller=made.packs[0], larger=made.packs[1])


def _outlets(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Outlets:
    room = outlets_bench(snapshot, owned.id, wait_s=wait_s)
    names = _apart(room.on_offer)
    entries = {names[outlet.id]: entry for outlet, entry in zip(room.chosen, room.bench.entries, strict=True)}
    if owned.outlet is None or names.get(owned.outlet.id) not in entries:
        raise NotSetUp
    return Outlets(entries=entries, own=names[owned.outlet.id])


def _limits(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Limits:
    room = policies_room(snapshot, owned.id, _as_it_is)
    early = policies_room(snapshot, owned.id, lambda inputs: replace(inputs, late=False))
    weekly = policies_room(snapshot, owned.id, lambda inputs: replace(inputs, weekly_full=not inputs.weekly_full))
    here = here_of(snapshot, owned)
    seldom = policies_room(snapshot, owned.id, _as_it_is, here.nights_carried)
    return Limits(
        years=room.inputs.years, own=room.own, best=room.best, policies=room.policies, early=early.policies,
        other_weekly=weekly.policies, seldom=seldom.policies, apart=here.nights_carried, stored=room.stored,
        stored_soc=STORED_SOC, stored_c=STORED_C, weeks=room.inputs.weeks,
    )  # fmt: skip


def _driving(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Driving:
    return in_this_minute(snapshot, ("sayings driving", owned.id), lambda: _driven(snapshot, owned))


def _driven(snapshot: Snapshot, owned: OwnedCar) -> Driving:
    """The Day room's day; of a car without an outlet its usual day in the air of now."""
    try:
        made = day(snapshot, owned.id)
        situation, remedies, tally, rated = made.situation, made.remedies, made.tally, made.rated
    except NotSetUp:
        situation = _usual(snapshot, owned)
        remedies, rated = alone(helping(situation)), dashboard_km(situation.car, situation.start.soc)
        tally = fair_tally(
            situation.car, situation.trip, situation.conditions, situation.start, reserve_soc=owned.habit.reserve
        )  # fmt: skip
    over, (town_wh, motorway_wh, _) = over_air(situation), on_roads(situation)
    used = over.used_kwh[over.airs_c == situation.conditions.ambient_c][0] / situation.car.pack.usable_kwh
    return Driving(
        situation=situation, remedies={each.key: each for each in remedies}, tally=tally, airs_c=over.airs_c, used_kwh=over.used_kwh,
        gains_kwh=over.gains_kwh, town_wh=town_wh, motorway_wh=motorway_wh, rated=rated,
        habits=habits(situation.car, situation.trip, situation.conditions, situation.start),
        range_km=situation.trip.distance_km * situation.start.soc / max(float(used), 1e-9),
    )  # fmt: skip


def _usual(snapshot: Snapshot, owned: OwnedCar) -> Situation:
    """The usual day of a car that never charges at home: soaked in the air, at the limit of its habit."""
    habit, air_c = owned.habit, climate_of(snapshot, owned.place).temperature_c(snapshot.minute)
    conditions = Conditions(
        ambient_c=air_c, altitude_m=owned.place.altitude_m, load_kg=habit.load_kg, cabin_set_c=habit.cabin_c
    )  # fmt: skip
    here = here_of(snapshot, owned)
    return Situation(
        car=here.car, trip=habit.trip, conditions=conditions, start=Start(habit.limit, air_c, air_c), extras=Extras(),
        warmed=WarmUpChoice.NOTHING, wall_kw=0.0, price_in_pack=here.price, morning_price=0.0, later_c=air_c, limit_soc=habit.limit,
    )  # fmt: skip


def _warming(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Warming:
    room = warm_up_room(snapshot, owned.id)
    advice = room.advice
    return Warming(
        pack_from_km=advice.pack_from_km, seats_to_km=advice.seats_to_km, km=room.inputs.km, air_c=room.inputs.out_c,
        options={each.choice.value: (each.money, each.gained_km, each.total) for each in advice.options}, best=advice.best.choice.value,
    )  # fmt: skip


def _starts(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Starts:
    def of(plan: YearPlan | None) -> tuple[float, float, float]:
        if plan is None:
            raise NotSetUp
        whole = NIGHTS / max(1, len(plan.cost))
        return float(plan.cost.sum()) * whole, float(plan.wear.sum()) * whole, float(plan.short_kwh.sum()) * whole

    def work(log: Snapshot) -> Starts:
        year, plug_in = car_year(log, owned), owned.habit.plug_in
        at_once = set_to(owned.habit.control, plug_in.replace(minute=plug_in.minute // 5 * 5, second=0, microsecond=0))
        return Starts(planned=of(planned(log, year)), at_once=of(planned(log, year, at_once)))

    what = ("sayings starts", owned, snapshot.home.per_euro, first_evening(snapshot.now.astimezone(owned.zone)))
    return derived_later(snapshot, what, work, wait_s, READS | {"price"})


def _hours(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Hours:
    ahead = ahead_of(snapshot, owned.id)
    request = ahead.night(ahead.next_charge).evening.request

    def of(tie_break: str) -> tuple[float, float]:
        made = plan(replace(request, tie_break=tie_break))
        return made.cost, made.wear

    def work() -> Hours:
        span = request.departure - request.plug_in
        air_c = min(request.ambient_c(request.plug_in + span * part) for part in np.linspace(0, 1, 25).tolist())
        return Hours(late=of("late"), cool=of("cool"), air_c=air_c)

    return in_this_minute(snapshot, ("sayings hours", owned.id), work)


def _week(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Week:
    made = week(snapshot, owned.id)
    cables = [each.choice.cable for each in made.nights]
    spared = tuple(max(0.0, each.choice.other_costs) for each in made.nights if each.choice.cable is not Cable.IN)
    return Week(
        nights=len(cables),
        plugged=cables.count(Cable.IN),
        either=cables.count(Cable.EITHER),
        out=cables.count(Cable.OUT),
        other_costs=spared,
    )


def _long(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> LongWay:
    made, here = side_by_side(snapshot, owned.id, _as_it_is, None, (), wait_s), here_of(snapshot, owned)
    low = made.room.low_and_warm
    if low is None:  # no fast post on the way
        raise NotSetUp
    days = int(np.count_nonzero(here.use_kwh > (1 - owned.habit.reserve) * here.car.pack.usable_kwh))
    beyond_min = fifths_min(here.car, low.post_kw, made.inputs.out_c)
    return LongWay(
        km=made.inputs.km, frost=made.frost, summer=made.summer, speeds=made.speeds, low=low, beyond_min=beyond_min, days=days
    )  # fmt: skip


def _standing(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Standing:
    room = parked_room(
        snapshot, owned.id, lambda inputs: replace(inputs, days=STAND_DAYS, cameras="away", polls="often", at_home=True)
    )
    parts = {name: lost / STAND_DAYS for name, lost in room.stood.parts.items()}
    return Standing(parts=parts, idle=parts["idle"], measured=idle_of(snapshot, owned) is not None)


def _winter(snapshot: Snapshot, owned: OwnedCar, wait_s: float) -> Winter:
    made, small, battery = season(snapshot, owned.id), twelve_volt(snapshot, owned.id), health(snapshot, owned.id)
    sums = battery.battery.sums
    known = bool(small.readings) or small.age_years is not None
    return Winter(
        tyres_on=made.dates.tyres, coldest_c=made.coldest_c, twelve_volt=small.judged.care.value if known else "",
        small_age=small.age_years, fast_kwh=sums.fast_kwh, all_kwh=sums.wall_kwh,
        drifts="" if battery.drifts is None else battery.drifts.value,
    )  # fmt: skip


Source = Callable[[Snapshot, OwnedCar, float], object]
OF_THE_YEAR: Mapping[str, Source] = {"tariffs": _tariffs, "timer": _timer, "post": _post, "others": _others, "starts": _starts}
"""What is kept until another day or entry."""
OF_THE_DAY: Mapping[str, Source] = {
    "outlets": _outlets, "limits": _limits, "driving": _driving, "warming": _warming, "week": _week, "hours": _hours, "long": _long,
    "standing": _standing, "winter": _winter,
}  # fmt: skip
"""What hangs on the coming day."""
