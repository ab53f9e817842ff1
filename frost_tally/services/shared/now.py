"""What is true of each car now, gathered from home, log and world: its level carried on, and what contradicts it."""

from datetime import datetime, timedelta

from ...core.charge.saved_plan import SavedPlan
from ...core.charge.supply import charge_rate
from ...core.coming.ahead import ahead
from ...core.coming.asked import Asked
from ...core.coming.decide import MOST_CARS
from ...core.coming.level import (
    CARRIED,
    CORRECTED,
    DOUBTED_FOR,
    MISSED_HABIT,
    MISSED_KEPT,
    MISSED_LINKED,
    STILL,
    TELLS_SOC,
    Charged,
    Event,
    Level,
    NightTold,
    Source,
    Stood,
    Tells,
    disagree,
    level_of,
    missed,
    night_told,
    was_missed,
)
from ...core.coming.night import CarNight
from ...core.coming.nights import NIGHTS, Stay, km_of, next_outing, stays, trip_away, trip_of
from ...core.coming.now import Away, Now
from ...core.coming.since import as_decided, by_plan, charged, drove, elsewhere, gone, most_soc, there
from ...core.coming.weather import learnt_miss_k
from ...core.drive.air import pressure_at
from ...core.drive.tyre_log import alarms
from ...core.heat.schedule import last_before
from ...core.home import OwnedCar
from ...core.live.lines import MISSED_MIN
from ...household.facts import EVER, known_by
from ...household.plans import nights_checked, nights_kept
from ...household.snapshot import Snapshot
from .climate import weather_ahead
from .derived import derived, in_this_minute
from .facts import (
    coming_plan,
    counted_soc,
    full_at,
    level_known,
    level_read,
    on_cable,
    plans_since,
    start_noted,
    tariff_on,
    told_by_point,
    tyres_now,
    wheels_now,
)
from .past import counted_miss_k, model_use, own_car, past_misses_k

CHECK_HOLDS, MISSED = timedelta(hours=14), timedelta(minutes=MISSED_MIN)
LEAST_SOC = 0.003
"""A charge of less adds nothing that anybody reads; a car that is on its cable so long after a departure stayed."""
"""How long what was seen when the cable went in counts, unless the car leaves before."""


def now_of(snapshot: Snapshot, car_id: int | None = None, tariff: int | None = None) -> Now:
    """What is true of a car (the first when None) in this minute, priced by another contract than its own when its number is given and
    there is one. Raises: NotSetUp.
    """
    return in_this_minute(snapshot, ("now", car_id, tariff), lambda: _now(snapshot, snapshot.home.ready_car(car_id), tariff))


def _now(
    snapshot: Snapshot, owned: OwnedCar, tariff: int | None = None, level: Level | None = None, until: datetime = EVER
) -> Now:
    """What is true of a car, as far as levels were read by a time; with a `level` that is told, as if it were read."""
    here = snapshot.minute.astimezone(owned.zone)
    contract = (snapshot.home.contract(tariff) or owned.pays).on_clock(owned.place.zone)
    nights, read, tyres = stays(owned, here), level_known(snapshot, owned.id, until), tyres_now(snapshot, owned)
    since, then = here, level
    if level is None:
        if nights[0].begin == here:  # a night that has begun is decided as it began, or as the level was read in it
            plugged = last_before(here + timedelta(seconds=1), owned.habit.plug_in)
            since = max(plugged, min(here, read[0].astimezone(owned.zone)) if read else plugged)
            if (begun := stays(owned, since))[0].leaves > here:
                nights = begun
            else:  # the first of two departures has passed
                since = here
        level = _level(snapshot, owned, read, here)
        then = level
        if since != here:  # the same in every minute of the night
            what = "level then", owned, since, read
            then = derived(snapshot, what, lambda: _level(snapshot, owned, read, since))
    errors, car = own_car(snapshot, owned, tyres)
    on = on_cable(snapshot, owned, here)
    return Now(
        owned=owned,
        tariff=tariff_on(snapshot, contract, since - timedelta(hours=1), nights[-1].leaves + timedelta(days=2)),
        per_euro=snapshot.home.per_euro,
        pack_price=snapshot.home.pack_price(owned.car.pack.chemistry),
        now=here,
        nights=nights,
        outside=weather_ahead(snapshot, owned),
        miss_k=(forecast_k := learnt_miss_k(past_misses_k(snapshot, owned))),
        counted_k=counted_miss_k(snapshot, owned, forecast_k) if errors.bias_sigma is not None else 0.0,
        due=nights[number].due if (number := next_outing(nights)) is not None else (),
        kept=coming_plan(snapshot, owned.id, here),
        level=level,
        then=then or level,
        tyres=tyres,
        alarms=alarms(wheels_now(snapshot, owned.id), owned.car.tyres.placard_kpa, pressure_at(owned.place.altitude_m) / 1000.0),
        errors=errors,
        car=car,
        started=start_noted(snapshot, owned.id, max(here - CHECK_HOLDS, last_before(here, owned.habit.depart))),
        full_at=full_at(snapshot, owned),
        elsewhere=elsewhere(snapshot.home, owned),
        away=None if on else _away(snapshot, owned, here, read),
        plugged=on,
    )


def _away(snapshot: Snapshot, owned: OwnedCar, here: datetime, read: tuple[datetime, float] | None) -> Away | None:
    """The drive that has begun by the list or by habit and is not over, while nobody has read a level since."""
    if (trip := trip_away(owned, here)) is not None:
        listed, back = trip
        used = model_use(snapshot, owned, listed.km, back, cold=True)
        return Away(home_at=back, km=listed.km, used_soc=used, staying=listed)
    spent = timedelta(hours=owned.habit.parked_h + 1.0)
    left = [
        each for each in stays(owned, here - spent, 3) if not each.stays and each.leaves <= here < each.leaves + gone(owned, each)
    ]
    if not left or read is None or (read[0] >= left[-1].leaves and not told_by_point(snapshot, owned.id, read[0])):
        return None
    km = km_of(owned, left[-1])
    used = _used(snapshot, owned, left[-1], left[-1].leaves)
    return Away(home_at=left[-1].leaves + gone(owned, left[-1]), km=km, used_soc=used)


def level_ahead(snapshot: Snapshot, owned: OwnedCar) -> Level:
    """The level of a car now, carried on from when it was read last."""
    return _level(snapshot, owned, level_known(snapshot, owned.id), snapshot.minute.astimezone(owned.zone))


def _level(snapshot: Snapshot, owned: OwnedCar, read: tuple[datetime, float] | None, here: datetime) -> Level:
    """The level at a moment, carried on from when it was read."""
    if read is None or here - read[0] > CARRIED:
        return level_of(read, here, (), owned.habit.floor)
    at = read[0].astimezone(owned.zone)
    return level_of(read, here, _since(snapshot, owned, at, read[1], here), owned.habit.floor)


def _since(snapshot: Snapshot, owned: OwnedCar, at: datetime, soc: float, here: datetime) -> list[Event]:
    """What happened since a level was read, as far as anybody knows."""
    found, kept = list[Event](), plans_since(snapshot, owned.id, at, here)
    nights = [each for each in stays(owned, at, NIGHTS + 2) if each.begin < here]
    rates, at_home = elsewhere(snapshot.home, owned), None if owned.outlet is None else charge_rate(owned.at.supply, owned.car)
    kept_miss, habit_miss = (_missed(snapshot, owned, each) for each in (True, False))
    night: list[Event]
    shared, stands_from = len(sharing_cable(snapshot, owned)) > 1, at
    for stay in nights:
        at_hand = kept if stay.away is None else ()
        plan = next((each for each in at_hand if stay.begin < each.departure <= stay.begin + timedelta(days=1)), None)
        leaves = stay.leaves if plan is None else plan.departure.astimezone(owned.zone)
        begin, ends = max(stay.begin, at), min(leaves, here)
        counted = counted_soc(snapshot, owned, begin, ends) if stay.away is None and begin < ends else None
        if counted is not None:
            reached = level_of((at, soc), begin, found, soc).likely + counted
            night = [Charged(to_soc=reached, most_soc=1.0, missed=0.0, ends=leaves)] if counted > LEAST_SOC else []
            left = here > leaves and not stay.stays and not on_cable(snapshot, owned, min(here, leaves + MISSED))
            found += [*night, *(drove(_used(snapshot, owned, stay, leaves)) if left else ())]
            stands_from = max(stands_from, leaves + gone(owned, stay)) if left else stands_from
            continue
        if here <= leaves and stay.away is None:
            if here - at >= STILL and here > begin:
                then = level_of((at, soc), begin, found, soc).likely
                found += _under_way(snapshot, owned, stay, plan=plan, known=(at, then), here=here)
            continue
        if plan is not None:
            found += by_plan(plan, most_soc(at_home, owned.car, begin, ends), kept_miss)
        else:
            drives = here > leaves and not stay.stays
            use = _used(snapshot, owned, stay, leaves) if drives else 0.0
            rate, night = at_home if stay.away is None else there(rates, stay), []
            if shared and stay.away is None:  # whose night it was is as the week had it
                decided = _decided(snapshot, owned, begin, level_of((at, soc), begin, found, soc).likely)
                use = max(0.0, decided.leaves_soc - decided.home_soc) if drives else 0.0
                night = as_decided(decided.plan, owned, stay, use, most_soc(rate, owned.car, begin, ends), missed=habit_miss)
            else:
                night = charged(owned, stay, use, most_soc(rate, owned.car, begin, ends), habit_miss)
            found += [*night, *drove(use)]
        if here > leaves:
            stands_from = max(stands_from, leaves + gone(owned, stay))
    return [*found, Stood(days=max(0.0, (here - stands_from).total_seconds() / 86_400.0))]


def _used(snapshot: Snapshot, owned: OwnedCar, stay: Stay, leaves: datetime) -> float:
    """What the day after a stay takes by the model, as it is listed: level 0 to 1."""
    return model_use(snapshot, owned, km_of(owned, stay), leaves, cold=stay.away is not None, trip=trip_of(owned, stay))


def _under_way(
    snapshot: Snapshot, owned: OwnedCar, stay: Stay, *, plan: SavedPlan | None, known: tuple[datetime, float], here: datetime
) -> list[Event]:
    """What the night that is under way has brought by a moment, as it was kept, or as it was planned when it began, from a level known."""
    at, soc = known
    if plan is not None:
        then, before = plan.soc_at(here), plan.soc_at(at) or plan.soc_start
        if then is None or then <= before:
            return []
        missed, ends = _missed(snapshot, owned, True), plan.departure
        return [Charged(to_soc=min(plan.limit, soc + then - before), most_soc=1.0, missed=missed, ends=ends, kept=True)]
    if owned.outlet is None or owned.contract is None:
        return []
    made = _decided(snapshot, owned, max(stay.begin, at), soc)
    reached = made.plan.soc_at(here)
    missed = _missed(snapshot, owned, False)
    return [Charged(to_soc=reached, most_soc=1.0, missed=missed, ends=stay.leaves)] if reached > soc else []


def _decided(snapshot: Snapshot, owned: OwnedCar, begin: datetime, soc: float) -> CarNight:
    """A night by habit as it was decided when it began, from a level (0 to 1) then, with its day."""
    sharing = sharing_cable(snapshot, owned)

    def planned() -> CarNight:
        told = Level(low=soc, likely=soc, high=soc, at=begin, source=Source.READ, read_soc=soc)
        then = snapshot.at(begin)
        known = known_by(begin)
        group = ahead([Asked(now=_now(then, each, None, told if each.id == owned.id else None, known)) for each in sharing])
        return next(each for each in group.cars if each.now.owned.id == owned.id).night(0)

    return derived(snapshot, ("by habit", owned.id, tuple(sharing), begin, round(soc, 3)), planned)


def _missed(snapshot: Snapshot, owned: OwnedCar, kept: bool) -> float:
    """The chance that a night of this car did not charge, learnt from its kept plans."""
    prior = (MISSED_LINKED if owned.habit.control.how.value == "linked" else MISSED_KEPT) if kept else MISSED_HABIT
    tables = ("night_plan", "drive", "night_check")
    known = derived(snapshot, ("nights told", owned.id), lambda: _nights_told(snapshot, owned.id), tables)
    told = [charged for by_plan, charged in known.values() if by_plan == kept]
    return missed(prior, len(told), told.count(False))


def _nights_told(snapshot: Snapshot, car_id: int) -> dict[datetime, tuple[bool, bool]]:
    """The latest nights that somebody knows of, by when they ended: whether a plan was kept, and whether it charged."""
    told = {
        ends: (True, not was_missed(began, planned, left))
        for ends, began, planned, left in nights_kept(snapshot.log, car_id)
        if planned - began > TELLS_SOC
    }
    return told | {ends: (kept, charged) for ends, kept, charged, _ in reversed(nights_checked(snapshot.log, car_id))}


def told_by(snapshot: Snapshot, owned: OwnedCar, at: datetime, soc: float) -> NightTold | None:
    """What a level (0 to 1) that was read at a moment tells of the night before it."""
    before = level_known(snapshot, owned.id, at)
    if before is None or at - before[0] > CARRIED:
        return None
    here = at.astimezone(owned.zone)
    return night_told(before, at, _since(snapshot, owned, before[0].astimezone(owned.zone), before[1], here), soc)


def doubted_night(snapshot: Snapshot, owned: OwnedCar) -> NightTold | None:
    """The night that the level read last contradicts, until somebody says what happened or the level is old."""
    read = level_read(snapshot, owned.id)
    if read is None or snapshot.minute - read[0] > DOUBTED_FOR:
        return None
    told = told_by(snapshot, owned, *read[:2])
    if told is None or told.tells not in (Tells.MISSED, Tells.NEITHER):
        return None
    answered = any(ends == told.ends and noted >= read[0] for ends, _, _, noted in nights_checked(snapshot.log, owned.id))
    return None if answered else told


def other_level(snapshot: Snapshot, owned: OwnedCar) -> tuple[datetime, float] | None:
    """A level that was known shortly before the last one and disagrees with it, though the car neither drove nor could charge so much."""
    read, before = level_known(snapshot, owned.id), None
    if read is not None and snapshot.minute - read[0] <= STILL:
        before = level_known(snapshot, owned.id, read[0] - CORRECTED)
    if read is None or before is None or read[0] - before[0] > STILL:
        return None
    since = _since(snapshot, owned, before[0].astimezone(owned.zone), before[1], read[0].astimezone(owned.zone))
    if any(not isinstance(each, Stood) for each in since):
        return None
    rate = None if owned.outlet is None else charge_rate(owned.at.supply, owned.car)
    return before if disagree(before[1], read[1], most_soc(rate, owned.car, before[0], read[0])) else None


def sharing_cable(snapshot: Snapshot, owned: OwnedCar) -> list[OwnedCar]:
    """The cars on the cable of one, itself among them."""
    ready = [each for each in snapshot.home.cars if each.contract is not None and each.outlet is not None]
    them = [each for each in ready if owned.outlet is not None and each.at.id == owned.at.id][:MOST_CARS]
    return them if any(each.id == owned.id for each in them) else [owned]
