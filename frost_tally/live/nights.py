"""The background task of the nights: each minute and on each message, for each point, what is, what should be, and what to ask of it.

Its clock is the home's. What it knows stands in the store, so that a server that was killed goes on where it was. Why: docs/decisions/0075.
"""

from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

import structlog

from ..core.charge.night import plan
from ..core.home import OwnedCar
from ..core.live.heard import Heard, Socket
from ..core.live.house import Seen
from ..core.live.lines import MISSED_MIN, Line, State
from ..core.live.profile import Profile, standing, warms_from
from ..core.live.runner import Runner
from ..core.parts import Outlet
from ..household import points as store
from ..household.snapshot import Snapshot
from ..services.tonight.carried import Carried, carried
from .asking import Asking, soon
from .points import Place, Points

LOOK_S, REST_S = 60.0, 0.2
"""How often to look when nothing happens, and how long to rest where much does."""
EACH, SELDOM, AGAIN = timedelta(minutes=1), timedelta(minutes=10), timedelta(minutes=30)
MISSED = timedelta(minutes=MISSED_MIN)
"""Then its warm-up ends, and the next night is planned."""
OLD = timedelta(hours=14)
"""What a runner knew so long ago is no more use to one that begins anew."""
UNDER_WAY = (State.HOLDS, State.CHARGES, State.STALLED, State.DONE, State.LOST)
OFF_SOC, LEAPT = 0.01, timedelta(hours=1)
log = structlog.get_logger("frost_tally.point")


@dataclass(kw_only=True)
class Watched:
    """A car's night on an outlet: its runner, the point's count when that began, what of it is written, and what it was made from."""

    runner: Runner
    asked: Carried
    made_of: object
    from_kwh: float
    written: int = 0


@dataclass(kw_only=True)
class AtOutlet:
    """An outlet's point as it was looked at last: what it told, what was written of it and when, and what it was asked for."""

    seen: Heard | None = None
    by: object = None
    reported: datetime | None = None
    asking: Asking = field(default_factory=Asking)


class Nights:
    """All nights of this home. `look` is called by one thread."""

    def __init__(self, points: Points) -> None:
        self.points = points
        self._at: datetime | None = None
        self._watched, self._outlets = dict[tuple[int, int], Watched](), dict[int, AtOutlet]()
        points.on_end = self._whose

    def wait_and_look(self) -> None:
        """Look as soon as something was told, or a minute has passed."""
        self.points.changed.wait(LOOK_S)
        self.look()

    @property
    def settled(self) -> bool:
        """Whether nothing that a point was asked for is still open."""
        return all(each.asking.settled for each in self._outlets.values())

    def look(self) -> None:
        """One look at all points; one that goes wrong keeps no other from being looked at."""
        self.points.changed.clear()
        now = self.points.now()
        slept, self._at = not timedelta() <= now - (self._at or now) <= LEAPT, now
        if slept:  # or somebody set the clock: of nights that nobody watched nothing is told
            on = {key: each for key, each in self._watched.items() if each.runner.departure > now > each.runner.request.now}
            self._watched = on
        with self.points.household.reading(now) as snapshot:
            for outlet in snapshot.home.outlets:
                if not outlet.point:
                    continue
                try:
                    self._look(snapshot, outlet, now)
                except Exception as problem:  # noqa: BLE001 - whatever it is, the next minute is looked at again
                    log.error("night", outlet=outlet.id, said=f"{type(problem).__name__}: {problem}")

    def _look(self, snapshot: Snapshot, outlet: Outlet, now: datetime) -> None:
        with self.points.lock:
            place = self.points.place(outlet)
            cars = _cars(snapshot, outlet, place.heard.tag)
            at = self._outlets.setdefault(outlet.id, AtOutlet())
            seen, at.seen = at.seen, place.heard
            before, failed = seen is not None and seen.plugged, seen is not None and seen.socket is Socket.FAULT
            said = store.last_report(snapshot.log, outlet.id)
            if said is None and place.talk is None:  # nobody ever heard it: there is nothing to miss
                return
            if place.talk is not None and not self.points.is_let_in(place):
                soon(place.talk.leave(), self.points.loop)
            if not place.heard.plugged:
                place.car_id = None
            elif said is not None and said.car_id is not None and place.car_id is not None and said.car_id != place.car_id:
                place.car_id, place.added, place.level = said.car_id, said.added, None  # its owner says which it is
            elif place.car_id is None or (place.heard.tag and _by_tag(cars, place.heard.tag) not in (None, place.car_id)):
                self._take(snapshot, place, cars)
            for owned in cars:
                self._tick(snapshot, place, owned, now=now, plugged_anew=not before)
            if place.heard.socket is Socket.FAULT and not failed:
                self._say(place, now, "fault")
            self._report(place, at, now)
            self._ask(place, at, cars, now)

    def _take(self, snapshot: Snapshot, place: Place, cars: list[OwnedCar]) -> None:
        """A car was plugged in: which, and what it had got of this outlet before."""
        place.car_id = self._car_on(snapshot, place, cars)
        if place.car_id is not None:
            place.added, place.level = store.last_added(snapshot.log, place.car_id), None

    def _car_on(self, snapshot: Snapshot, place: Place, cars: list[OwnedCar]) -> int | None:
        """The car on a cable: as its card says, else the one whose turn it is, else the one whose turn is next."""
        known = _by_tag(cars, place.heard.tag)
        if known is not None or not cars:
            return known
        here, asked = snapshot.minute, {each.id: carried(snapshot, each.id, place.outlet) for each in cars}
        turns = [number for number, each in asked.items() if each is not None and each.has_turn(here)]
        later = sorted((each.span.begin_s, number) for number, each in asked.items() if each is not None and each.span)
        return next(iter([*turns, *(number for begin_s, number in later if begin_s > here.timestamp())]), cars[0].id)

    def _whose(self, place: Place) -> int | None:
        """Whose charge it was that is over; asked of a place that nobody looked at since the cable went in."""
        if place.car_id is None:
            with self.points.household.reading(self.points.now()) as snapshot:
                self._take(snapshot, place, _cars(snapshot, place.outlet, place.heard.tag))
        return place.car_id

    def _tick(self, snapshot: Snapshot, place: Place, owned: OwnedCar, *, now: datetime, plugged_anew: bool) -> None:
        here = place.heard.plugged and place.car_id == owned.id
        watched = self._of(snapshot, place, owned, now=now, anew=here and plugged_anew)
        if watched is None:
            return
        runner, heard = watched.runner, place.heard
        if watched.asked.blocked:
            if here and (not runner.lines or runner.lines[-1].code != "blocked"):
                self._say(place, now, "blocked")
                self._write(place, owned, watched)
            return
        others = heard.plugged and not here and watched.asked.has_turn(now)
        before_kwh = runner.model.pack_kwh
        seen = Seen(
            at=now,
            heard=place.talk is not None,
            plugged=here or others,
            ours=here,
            wall_kw=_kw(heard, runner) if here else 0.0,
            amps=_amps(heard, runner) if here else 0.0,
            wall_kwh=heard.kwh - watched.from_kwh if here else runner.wall_kwh,
            soc=heard.soc if here else None,
        )
        order = runner.tick(seen)
        if here:
            place.added += max(0.0, runner.model.pack_kwh - before_kwh) / runner.request.car.pack.usable_kwh
            place.level = min(1.0, max(0.0, runner.soc))
        else:
            watched.from_kwh = heard.kwh - runner.wall_kwh
        self._write(place, owned, watched)
        if order is not None and order.wake and here:
            self._keep(place, self._outlets[place.outlet.id], watched, now, wake=True)

    def _of(self, snapshot: Snapshot, place: Place, owned: OwnedCar, *, now: datetime, anew: bool) -> Watched | None:
        """The night of a car: as it is watched, changed as its owner changed it, or one that begins to be watched."""
        key = place.outlet.id, owned.id
        watched, made_of = self._watched.get(key), self._made_of(snapshot, place, now)
        if watched is not None and watched.runner.state is State.LEFT:
            still = place.heard.plugged and place.car_id == owned.id
            if still and now < watched.runner.departure + MISSED:
                return watched
            watched = None
        if watched is not None and watched.made_of == made_of and not anew:
            return watched
        asked = carried(snapshot, owned.id, place.outlet)
        if asked is None:
            return watched
        if watched is not None and not anew:
            self._renew(watched, asked, now)
            watched.made_of = made_of
            return watched
        self._watched[key] = made = self._begun(snapshot, place, owned, asked, now)
        made.made_of = made_of
        return made

    def _made_of(self, snapshot: Snapshot, place: Place, now: datetime) -> object:
        """Changes where a night may be another: with a decision, with prices, and now and then as long as no cable is in."""
        prices = (snapshot.counters or {}).get("price")
        return snapshot.revision, prices, None if place.heard.plugged else int(now.timestamp() // AGAIN.total_seconds())

    def _renew(self, watched: Watched, asked: Carried, now: datetime) -> None:
        """Its owner changed something: of the night, if it is of the night."""
        runner, new, was = watched.runner, asked.request, watched.asked.request
        prices = [list(each.tariff.prices(now, min(new.departure, was.departure))) for each in (new, was)]
        same = (new.departure, round(new.target_soc, 3), new.choice, new.held) == (
            was.departure, round(was.target_soc, 3), was.choice, was.held,
        )  # fmt: skip
        off_soc = max(abs(asked.need_soc - runner.need_soc), abs(new.soc - runner.soc))
        watched.asked = asked
        if prices[0] != prices[1] or not same or off_soc >= OFF_SOC:
            runner.change(new, asked.need_soc, now, "changed" if prices[0] == prices[1] else "prices")

    def _begun(self, snapshot: Snapshot, place: Place, owned: OwnedCar, asked: Carried, now: datetime) -> Watched:
        """A night from now on; one that was watched before this server began from where it was left."""
        lines, from_kwh, request = store.lines_of(snapshot.log, owned.id, asked.request.departure), place.heard.kwh, asked.request
        last = store.last_report(snapshot.log, place.outlet.id)
        stays = last is not None and last.heard.plugged and last.car_id in (None, owned.id) and now - last.at < OLD
        goes_on = stays and place.car_id == owned.id and bool(lines) and lines[-1].state in UNDER_WAY
        if goes_on and last is not None and last.level is not None:
            request, from_kwh = replace(request, now=min(now, last.at), soc=last.level), last.heard.kwh
        runner = Runner(request, asked.need_soc, plan)
        if lines:
            runner.resume(lines, heard_at=request.now if goes_on else None)
        return Watched(runner=runner, asked=asked, made_of=None, from_kwh=from_kwh, written=len(lines))

    def _write(self, place: Place, owned: OwnedCar, watched: Watched) -> None:
        """What the runner decided goes to the store at once."""
        new = watched.runner.lines[watched.written :]
        if new:
            with self.points.household.recording() as session:
                store.write_lines(session, place.outlet.id, owned.id, watched.asked.request.departure, new)
            watched.written = len(watched.runner.lines)

    def _report(self, place: Place, at: AtOutlet, now: datetime) -> None:
        """What is so goes to the store when it changed, and each minute while a cable is in."""
        heard = place.heard
        by = (place.talk is not None, heard.socket, heard.plugged, heard.fault, heard.tag, heard.transaction, place.car_id)
        if by == at.by and at.reported is not None and now - at.reported < (EACH if heard.plugged else SELDOM):
            return
        at.by, at.reported = by, now
        with self.points.household.recording() as session:
            store.write_report(session, place.outlet.id, place.report(now))

    def _ask(self, place: Place, at: AtOutlet, cars: list[OwnedCar], now: datetime) -> None:
        """Ask the point for what should be, where that is not what stands in it."""
        watched = self._next(place, cars, now)
        if watched is not None:
            self._keep(place, at, watched, now)
        if watched is not None and watched.asked.blocked:
            at.asking.end(place, self.points.loop)
        elif place.car_id is not None:
            at.asking.begin(place, now, self.points.loop)

    def _keep(self, place: Place, at: AtOutlet, watched: Watched, now: datetime, wake: bool = False) -> None:
        phases = min(place.outlet.supply.phases, watched.runner.request.car.charger.phases)
        if at.asking.keep(place, _profile(watched), phases, now=now, loop=self.points.loop, wake=wake):
            self._say(place, now, "refused")

    def _next(self, place: Place, cars: list[OwnedCar], now: datetime) -> Watched | None:
        """Whose night stands in the point: of the car on the cable, else of the one whose turn it is or will be."""
        if place.heard.plugged and place.car_id is not None:
            return self._watched.get((place.outlet.id, place.car_id))
        all_of = [each for owned in cars if (each := self._watched.get((place.outlet.id, owned.id))) is not None]
        turns = [each for each in all_of if each.asked.span is not None and each.asked.span.end_s > now.timestamp()]
        return min(turns or all_of, key=lambda each: each.asked.span.begin_s if each.asked.span else 0.0, default=None)

    def _say(self, place: Place, now: datetime, code: str) -> None:
        """Something of the point itself, to be written with the next look."""
        watched = self._watched.get((place.outlet.id, place.car_id or 0))
        if watched is not None:
            watched.runner.lines.append(Line(now, watched.runner.state, code))


def _profile(watched: Watched) -> Profile:
    """What should stand in the point: while nobody is plugged in, the evening's plan, open after its last hour; with the warm-up open."""
    runner = watched.runner
    if watched.asked.blocked:
        return Profile(((runner.request.now, 0.0),))
    if runner.state is State.LEFT:
        return Profile(((runner.departure, runner.request.rate.amps),))
    if runner.plan is None:
        made = watched.asked.plan
        return standing(made, runner.request.rate.amps).opened(warms_from(made), runner.request.rate.amps)
    order = runner.order()
    return order.profile.opened(order.warms_from, runner.request.rate.amps)


def _kw(heard: Heard, runner: Runner) -> float:
    """What flows, kW; of a point that charges and counts nothing what it may."""
    uncounted = heard.socket is Socket.CHARGES and heard.register_kwh is None and not heard.kw
    return runner.rate.wall_kw if uncounted else heard.kw


def _amps(heard: Heard, runner: Runner) -> float:
    """What flows, A: as it is told, else from the power."""
    rate = runner.request.rate
    return heard.amps if heard.amps > 0 or not heard.kw else heard.kw / rate.wall_kw * rate.amps


def _cars(snapshot: Snapshot, outlet: Outlet, tag: str) -> list[OwnedCar]:
    """The cars of an outlet, and a guest of another whose card was read at it."""
    ready = [each for each in snapshot.home.cars if each.outlet is not None and each.contract is not None]
    return [each for each in ready if each.at.id == outlet.id or (tag and each.habit.tag.casefold() == tag.casefold())]


def _by_tag(cars: list[OwnedCar], tag: str) -> int | None:
    return next((each.id for each in cars if tag and each.habit.tag.casefold() == tag.casefold()), None)
